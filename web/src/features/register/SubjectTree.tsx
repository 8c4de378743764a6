import { namesOnPath, type SubjectList } from '@polychron/contract';
import { useQueries, useQuery } from '@tanstack/react-query';
import { Tree, type TreeDataNode } from 'antd';
import { useState } from 'react';
import { useFileDrop } from '../../parts/drop/useFileDrop.ts';
import { subjectsQuery } from '../../parts/queries.ts';
import { Refusal } from '../../ui/Refusal.tsx';
import { Waiting } from '../../ui/Waiting.tsx';

interface Props {
  libraryId: string;
  /** The subjects whose documents are listed. */
  path: string | undefined;
  onChoose: (path: string) => void;
  /** Takes files that become documents of a subject; null where one may make none. */
  onFiles: ((files: File[], names: string[]) => void) | null;
}

type Subjects = SubjectList['items'];

/** A path with those above it, the broadest first. */
const pathsTo = (path: string | undefined): string[] => {
  const parts = path?.split('/') ?? [];
  return parts.map((_, place) => parts.slice(0, place + 1).join('/'));
};

/** Subjects as folders: a level is read when it is opened; a file dropped on one is to be of that subject. */
export function SubjectTree({ libraryId, path, onChoose, onFiles }: Props) {
  const first = useQuery(subjectsQuery(libraryId));
  const [opened, setOpened] = useState<string[]>(() => pathsTo(path).slice(0, -1));
  const below = useQueries({ queries: opened.map((each) => subjectsQuery(libraryId, each)) });
  const known = new Map(opened.map((each, place) => [each, below[place]?.data]));
  const nodes = (subjects: Subjects): TreeDataNode[] =>
    subjects.map((subject) => {
      const children = known.get(subject.path);
      return {
        key: subject.path,
        title: (
          <Folder
            name={subject.name}
            onFiles={onFiles && ((files) => onFiles(files, namesOnPath(subject.path)))}
          />
        ),
        isLeaf: children?.length === 0,
        ...(children ? { children: nodes(children) } : {}),
      };
    });
  if (first.error) return <Refusal error={first.error} />;
  if (!first.data) return <Waiting lines={5} />;
  if (first.data.length === 0)
    return (
      <p className="empty">No document has a subject yet. It is one of its fields, or said when it is new.</p>
    );
  return (
    <Tree
      aria-label="Subjects"
      blockNode
      treeData={nodes(first.data)}
      expandedKeys={opened}
      onExpand={(keys) => setOpened(keys.map(String))}
      selectedKeys={path ? [path] : []}
      // Pressing what is chosen takes the choice away.
      onSelect={(keys) => onChoose(String(keys[0] ?? ''))}
    />
  );
}

function Folder({ name, onFiles }: { name: string; onFiles: ((files: File[]) => void) | null }) {
  const drop = useFileDrop(onFiles);
  return (
    <span className={drop.over ? 'folder files-over' : 'folder'} title={name} {...drop.handlers}>
      {name}
    </span>
  );
}
