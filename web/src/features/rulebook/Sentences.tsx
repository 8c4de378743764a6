import {
  admitRulebook,
  draftStays,
  durationWords,
  isRefusal,
  keptExample,
  parseDuration,
  type Rulebook,
  type RulebookPart,
  rulebookParts,
  sightRoles,
  valueAt,
} from '@polychron/core';
import type { PaceView } from '@polychron/contract';
import { Select } from 'antd';
import { type ReactNode, useMemo } from 'react';
import { Choice } from '../../ui/Choice.tsx';
import { bytes } from '../../ui/when.ts';
import { Word } from '../../ui/Word.tsx';
import { ControlNames } from './ControlNames.tsx';
import { LimitField } from './LimitField.tsx';
import { NumberPatterns } from './NumberPatterns.tsx';
import { OwnFields } from './OwnFields.tsx';
import { viewerWords } from './ruleWords.ts';
import { SetChoice } from './SetChoice.tsx';

interface Props {
  rules: Rulebook;
  /** The rules in force, to mark what differs. */
  before: Rulebook;
  change: (changed: Partial<Rulebook>) => void;
  pace: PaceView | undefined;
  /** Who may be named to approve: account and name. */
  people: readonly (readonly [account: string, name: string])[];
  /** The library's code. */
  code: string;
  part: RulebookPart | null;
  onPart: (part: RulebookPart | null) => void;
}

const titles: Record<RulebookPart, string> = {
  numbered: 'Numbered',
  held: 'Held',
  decided: 'Decided',
  seen: 'Seen',
  kept: 'Kept',
};

/** Leads to each group of sentences, since not all are in sight at once. */
export function RuleGroups() {
  return (
    <nav className="rule-groups" aria-label="Groups of rules">
      {rulebookParts.map((part) => (
        <button
          key={part}
          type="button"
          className="quiet"
          onClick={() => {
            const group = document.getElementById(`rules-${part}`);
            group?.scrollIntoView({ block: 'start' });
            group?.querySelector<HTMLElement>('button, input')?.focus({ preventScroll: true });
          }}
        >
          {titles[part]}
        </button>
      ))}
    </nav>
  );
}

/** The rules as sentences with the choices inside, in the order of a document's life. */
export function Sentences(props: Props) {
  const bodies: Record<RulebookPart, ReactNode> = {
    numbered: <Numbered {...props} />,
    held: <Held {...props} />,
    decided: <Decided {...props} />,
    seen: <Seen {...props} />,
    kept: <Kept {...props} />,
  };
  return (
    <div className="rules">
      {rulebookParts.map((part) => (
        <section
          key={part}
          id={`rules-${part}`}
          className={`rule ${props.part === part ? 'rule-lit' : ''}`}
          aria-label={titles[part]}
          onMouseEnter={() => props.onPart(part)}
          onMouseLeave={() => props.onPart(null)}
          onFocus={() => props.onPart(part)}
          onBlur={() => props.onPart(null)}
        >
          <h2>{titles[part]}</h2>
          <div>{bodies[part]}</div>
        </section>
      ))}
    </div>
  );
}

/** Whether a rule differs from the one in force. */
const differs = ({ rules, before }: Props, path: string): boolean =>
  JSON.stringify(valueAt(rules, path)) !== JSON.stringify(valueAt(before, path));

/** The choice of the rule at `path`: as proposed, marked where it differs from the one in force. */
function RuleChoice<T extends string>({
  of,
  path,
  ...choice
}: {
  of: Props;
  path: string;
  name: string;
  choices: readonly (readonly [value: T, words: string])[];
  disabled?: boolean;
  onChoose: (value: T) => void;
}) {
  return (
    <Choice
      {...choice}
      onHover
      value={String(valueAt(of.rules, path))}
      marked={differs(of, path)}
      onChoose={(value) => choice.onChoose(value as T)}
    />
  );
}

function Numbered(props: Props) {
  const { rules, change, code } = props;
  return (
    <>
      <p>
        Versions are{' '}
        <RuleChoice
          of={props}
          path="numbering"
          name="Numbering"
          choices={[
            ['stepped', 'published as 1.0, 2.0 with drafts between them'],
            ['whole', 'numbered 1, 2, 3'],
            ['none', 'kept without numbers, one current version each'],
          ]}
          // Saves that are drafts need drafts; the choice that cannot stay goes with the one it hangs on.
          onChoose={(numbering) =>
            change({
              numbering,
              ...(numbering === 'stepped' ? {} : { saves: 'steps', closedInProgram: 'asks' }),
            })
          }
        />
        {rules.numbering === 'none' ? (
          '; what is replaced goes to the recovery shelf.'
        ) : (
          <>
            ; a new document starts at{' '}
            <span className="number">{rules.numbering === 'stepped' ? '0.1' : '1'}</span>.
          </>
        )}
      </p>
      <NumberPatterns
        patterns={rules.numberPatterns}
        code={code}
        marked={differs(props, 'numberPatterns')}
        onChange={(numberPatterns) => change({ numberPatterns })}
      />
      <OwnFields rules={rules} before={props.before.fields} onChange={(fields) => change({ fields })} />
    </>
  );
}

function Held(props: Props) {
  const { rules, change } = props;
  return (
    <>
      <p>
        A document is changed{' '}
        <RuleChoice
          of={props}
          path="custody"
          name="Check-out"
          choices={[
            ['required', 'only by whoever has checked it out'],
            ['optional', 'also without a check-out, while nobody holds it'],
          ]}
          onChoose={(custody) => change({ custody })}
        />
        , for{' '}
        <LimitField
          name="Days of a check-out"
          none="any number of"
          least={1}
          value={rules.custodyDays}
          marked={differs(props, 'custodyDays')}
          onChange={(custodyDays) => change({ custodyDays })}
        />{' '}
        days unless said otherwise. A save{' '}
        <RuleChoice
          of={props}
          path="saves"
          name="Saves"
          disabled={rules.numbering !== 'stepped'}
          choices={[
            ['steps', 'makes no version'],
            ['drafts', 'is a draft version each time'],
          ]}
          onChoose={(saves) => change({ saves })}
        />
        ; when a program closes the file,{' '}
        <RuleChoice
          of={props}
          path="closedInProgram"
          name="Closed in a program"
          disabled={rules.numbering !== 'stepped'}
          choices={[
            ['asks', 'its holder is asked what becomes of it'],
            ['checksIn', 'it is checked in as a draft by itself'],
          ]}
          onChoose={(closedInProgram) => change({ closedInProgram })}
        />
        ; a check-in{' '}
        <RuleChoice
          of={props}
          path="checkInComment"
          name="Check-in comment"
          choices={[
            ['required', 'needs a comment'],
            ['optional', 'may go without a comment'],
          ]}
          onChoose={(checkInComment) => change({ checkInComment })}
        />
        . Files of{' '}
        <RuleChoice
          of={props}
          path="maxFileBytes"
          name="Largest file"
          choices={sizes(rules.maxFileBytes, 'any size', [1, 5, 25, 100])}
          onChoose={(size) => change({ maxFileBytes: sizeOf(size) })}
        />{' '}
        are accepted.
      </p>
      {rules.numbering !== 'stepped' && (
        <p className="why">Saves can be drafts only where there are drafts between published versions.</p>
      )}
    </>
  );
}

function Decided(props: Props) {
  const { rules, change, people } = props;
  const { approval } = rules;
  const set = (changed: Partial<Rulebook['approval']>): void =>
    change({ approval: { ...approval, ...changed } });
  return (
    <>
      <p>
        {rules.numbering === 'stepped' ? 'A draft' : 'A version'} is published{' '}
        <RuleChoice
          of={props}
          path="approval.on"
          name="Approval"
          choices={[
            ['false', 'when an author publishes it'],
            ['true', 'when it is approved'],
          ]}
          onChoose={(on) => set({ on: on === 'true' })}
        />
        {approval.on && (
          <>
            ,{' '}
            <RuleChoice
              of={props}
              path="approval.mode"
              name="Order of approval"
              choices={[
                ['serial', 'one after another'],
                ['together', 'all of them, in any order'],
                ['anyOne', 'any one of them'],
              ]}
              onChoose={(mode) => set({ mode })}
            />
            ;{' '}
            <RuleChoice
              of={props}
              path="approval.publishing"
              name="Who publishes"
              choices={[
                ['onApproval', 'the last approval publishes it'],
                ['byOwner', 'its owner then publishes it'],
              ]}
              onChoose={(publishing) => set({ publishing })}
            />
            . Authors may{' '}
            <RuleChoice
              of={props}
              path="approval.authorMayApprove"
              name="Authors approving their own"
              choices={[
                ['false', 'not approve'],
                ['true', 'approve'],
              ]}
              onChoose={(value) => set({ authorMayApprove: value === 'true' })}
            />{' '}
            their own versions; controllers{' '}
            <RuleChoice
              of={props}
              path="approval.controllersDecide"
              name="Controllers deciding in the place of others"
              choices={[
                ['false', 'may not decide'],
                ['true', 'may decide, with a reason,'],
              ]}
              onChoose={(value) => set({ controllersDecide: value === 'true' })}
            />{' '}
            for an approver.
          </>
        )}
        {!approval.on && '.'}
      </p>
      {approval.on ? (
        <label className="approvers">
          Unless a document names others, these are asked{approval.mode === 'serial' ? ', in this order' : ''}
          :
          <Select
            mode="multiple"
            variant="underlined"
            aria-label="Approvers"
            placeholder="nobody yet"
            value={approval.approvers}
            onChange={(approvers: string[]) => set({ approvers })}
            options={people.map(([value, label]) => ({ value, label }))}
            optionFilterProp="label"
            maxCount={50}
          />
        </label>
      ) : (
        <p className="why">Who is asked, and in what order, applies once approvers decide.</p>
      )}
    </>
  );
}

function Seen(props: Props) {
  const { rules, change } = props;
  const sight = (state: keyof Rulebook['sight'], name: string): ReactNode => (
    <SetChoice
      name={name}
      words={viewerWords(rules.sight[state])}
      chosen={rules.sight[state]}
      choices={sightRoles.map((role) => [role, `${role}s`] as const)}
      marked={differs(props, `sight.${state}`)}
      onChoose={(roles) => change({ sight: { ...rules.sight, [state]: roles } })}
    />
  );
  return (
    <>
      <p>
        Besides the document&rsquo;s <Word of="Team">team</Word> and controllers,{' '}
        {rules.numbering === 'stepped' ? 'drafts are' : 'unpublished versions are'} seen by{' '}
        {sight('draft', 'Who sees drafts')}, versions in approval by{' '}
        {sight('inApproval', 'Who sees versions in approval')}, rejected ones by{' '}
        {sight('rejected', 'Who sees rejected versions')}. Readers see{' '}
        <RuleChoice
          of={props}
          path="readersSeePast"
          name="Readers and superseded versions"
          choices={[
            ['false', 'only what is in force'],
            ['true', 'superseded versions too'],
          ]}
          onChoose={(value) => change({ readersSeePast: value === 'true' })}
        />
        .
      </p>
      <ControlNames
        names={rules.controlNames}
        before={props.before.controlNames}
        onChange={(controlNames) => change({ controlNames })}
      />
    </>
  );
}

function Kept(props: Props) {
  const { rules, change, pace } = props;
  const { keep } = rules;
  const set = (changed: Partial<Rulebook['keep']>): void => change({ keep: { ...keep, ...changed } });
  const none = rules.numbering === 'none';
  const example = useMemo(() => {
    const admitted = admitRulebook(rules);
    return isRefusal(admitted) ? '' : keptExample(rules, new Date());
  }, [rules]);
  return (
    <>
      <p>
        Besides what is in force,{' '}
        <LimitField
          name="Published versions kept"
          none="all"
          value={none ? 0 : keep.published}
          disabled={none}
          marked={differs(props, 'keep.published')}
          onChange={(published) => set({ published })}
        />{' '}
        published {keep.published === 1 ? 'version stays' : 'versions stay'}; drafts stay{' '}
        <RuleChoice
          of={props}
          path="keep.drafts.stay"
          name="How long drafts stay"
          choices={stays(keep.drafts.stay)}
          onChoose={(stay) => set({ drafts: { ...keep.drafts, stay } })}
        />
        ,{' '}
        <LimitField
          name="Drafts kept before each publication"
          none="all"
          least={1}
          value={keep.drafts.newest}
          marked={differs(props, 'keep.drafts.newest')}
          onChange={(newest) => set({ drafts: { ...keep.drafts, newest } })}
        />{' '}
        of each. {keep.spareYoungerThan !== null && 'Of what is older than '}
        <RuleChoice
          of={props}
          path="keep.spareYoungerThan"
          name="Not thinned before this age"
          choices={ages(keep.spareYoungerThan)}
          onChoose={(age) => set({ spareYoungerThan: age === 'null' ? null : age })}
        />
        {keep.spareYoungerThan !== null && ', everything'} else is thinned, after{' '}
        <LimitField
          name="Days on the shelf"
          none="no"
          value={rules.graceDays}
          marked={differs(props, 'graceDays')}
          onChange={(graceDays) => change({ graceDays: graceDays ?? 0 })}
        />{' '}
        days on the recovery shelf. The library may keep{' '}
        <RuleChoice
          of={props}
          path="allowanceBytes"
          name="Allowance"
          choices={sizes(rules.allowanceBytes, 'as much as it needs', [10, 100, 1000, 10_000, 100_000])}
          onChoose={(size) => change({ allowanceBytes: sizeOf(size) })}
        />
        .
      </p>
      {none ? (
        <p className="why">
          Documents without numbers have one current version; how many published ones stay does not apply.
        </p>
      ) : (
        <>
          <p className="why">Each document counts for itself. {example}</p>
          <p className="why presets">
            {pace && pace.presets.length > 0 && (
              <>
                The busiest document here is published {pace.busiest} {pace.busiest === 1 ? 'time' : 'times'}{' '}
                a year:{' '}
                {pace.presets.map((preset) => (
                  <Preset
                    key={preset.why}
                    preset={preset}
                    chosen={keep.published}
                    onChoose={(published) => set({ published })}
                  />
                ))}
              </>
            )}
            <button type="button" className="quiet" onClick={() => set({ published: null })}>
              keep all
            </button>
          </p>
        </>
      )}
      {rules.numbering === 'whole' && (
        <p className="why">
          Whole numbers have no drafts between them; the limits on drafts hold for rejected versions.
        </p>
      )}
    </>
  );
}

function Preset({
  preset,
  chosen,
  onChoose,
}: {
  preset: PaceView['presets'][number];
  chosen: number | null;
  onChoose: (published: number) => void;
}) {
  return (
    <>
      <button
        type="button"
        className="quiet preset"
        aria-pressed={chosen === preset.published}
        onClick={() => onChoose(preset.published)}
      >
        <strong>{preset.published}</strong> {preset.why}
      </button>{' '}
    </>
  );
}

const megabyte = 1_000_000;
function sizes(present: number | null, none: string, megabytes: readonly number[]): [string, string][] {
  const offered = [
    ...new Set([...megabytes.map((size) => size * megabyte), ...(present === null ? [] : [present])]),
  ].sort((a, b) => a - b);
  return [['null', none], ...offered.map((size): [string, string] => [String(size), `up to ${bytes(size)}`])];
}
const sizeOf = (value: string): number | null => (value === 'null' ? null : Number(value));

function ages(present: string | null): [string, string][] {
  return [['null', 'Everything'], ...durations(present).map((age): [string, string] => [age, inWords(age)])];
}

const stayWords: Record<(typeof draftStays)[number], string> = {
  all: 'always',
  withTheirVersion: 'with the published version they led to',
  untilPublished: 'until the version they led to is published',
};

function stays(present: string): [string, string][] {
  const fixed = draftStays.map((stay): [string, string] => [stay, stayWords[stay]]);
  const isFixed = draftStays.some((stay) => stay === present);
  const after = durations(isFixed ? null : present).map((stay): [string, string] => [
    stay,
    `for ${inWords(stay)} after the version they led to is published`,
  ]);
  return [...fixed, ...after];
}

/** Durations that are offered (ISO 8601), with the one that is chosen. */
const durations = (present: string | null): string[] => [
  ...new Set(['P30D', 'P90D', 'P180D', 'P1Y', ...(present === null ? [] : [present])]),
];

function inWords(text: string): string {
  const duration = parseDuration(text);
  return duration ? durationWords(duration) : text;
}
