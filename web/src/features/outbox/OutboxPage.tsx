import { type OutboxList, routes } from '@polychron/contract';
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router-dom';
import { messageQuery, outboxQuery, readAgain, sessionQuery } from '../../parts/queries.ts';
import { call, downloadAs, sentenceOf } from '../../ui/api.ts';
import { useMessages } from '../../ui/messages.tsx';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { dayTime, fullTime } from '../../ui/when.ts';
import { Word } from '../../ui/Word.tsx';
import './outbox.css';
import { useUnfinished } from '../../ui/unfinished.ts';

type Item = OutboxList['items'][number];

/** Every message the system made for one, as it was made; one that asks for a decision is answered here. */
export function OutboxPage() {
  const [search, setSearch] = useSearchParams();
  const list = useInfiniteQuery(outboxQuery);
  const { data: session } = useQuery(sessionQuery);
  // The one that was on the screen first stays there, whatever comes meanwhile.
  const [opened, setOpened] = useState<string | null>(null);
  if (list.error) return <Nowhere error={list.error} />;
  const [first] = list.data?.pages ?? [];
  const items = list.data?.pages.flatMap((page) => page.items) ?? [];
  const newest = items.find(({ subject }) => subject !== null)?.id;
  if (opened === null && newest !== undefined) setOpened(newest);
  const chosen = search.get('message') ?? opened ?? newest;
  return (
    <main className="outbox">
      <header className="outbox-head">
        <h1>
          <Word of="Outbox">Messages</Word>
        </h1>
        {first && (
          <span className="muted" role="status">
            {first.leaves ? 'each also leaves by mail' : 'kept here: no mail server is set up'} ·{' '}
            <Link to="/account">how you get yours</Link>
          </span>
        )}
      </header>
      <div className="outbox-body">
        <div className="outbox-list">
          {list.isLoading && <Waiting lines={6} />}
          {first?.total === 0 && (
            <p className="empty">
              Nothing was to be mailed yet. What asks you to decide stands here, and notices that you get by
              mail.
            </p>
          )}
          <ul aria-label="Messages">
            {items.map((item) => (
              <li key={item.id}>
                <Line
                  item={item}
                  own={item.to.account === session?.account}
                  chosen={item.id === chosen}
                  onChoose={() => setSearch({ message: item.id }, { replace: true })}
                />
              </li>
            ))}
          </ul>
          {list.hasNextPage && (
            <button type="button" className="quiet more" onClick={() => void list.fetchNextPage()}>
              Earlier messages
            </button>
          )}
        </div>
        {chosen !== undefined && <Message key={chosen} id={chosen} />}
      </div>
    </main>
  );
}

interface LineProps {
  item: Item;
  own: boolean;
  chosen: boolean;
  onChoose: () => void;
}

/** What a message is about and what became of it; of one to somebody else, where it went. */
function Line({ item, own, chosen, onChoose }: LineProps) {
  const words = (
    <>
      <span className="outbox-subject">{item.subject ?? `To ${item.to.name}`}</span>
      <span className="muted" title={fullTime(item.at)}>
        {dayTime(item.at)} {!own && <>· {item.address} </>}· {became(item)}
      </span>
    </>
  );
  if (!own) return <div className="outbox-line">{words}</div>;
  return (
    <button type="button" className="outbox-line" aria-pressed={chosen} onClick={onChoose}>
      {words}
    </button>
  );
}

function became({ sentAt, problem, answer }: Item): string {
  const answered =
    answer === null ? '' : { open: ', can be answered', used: ', answered', over: ', over' }[answer];
  if (problem !== null) return `could not leave: ${problem}${answered}`;
  return `${sentAt === null ? 'kept here' : `left ${dayTime(sentAt)}`}${answered}`;
}

/** A message as it reads, to be taken along as .eml. */
function Message({ id }: { id: string }) {
  const { data, error } = useQuery(messageQuery(id));
  const message = useMessages();
  const [said, setSaid] = useState<string | null>(null);
  if (error) return <Nowhere error={error} />;
  if (!data) return <Waiting lines={6} />;
  const save = async (): Promise<void> => {
    try {
      await downloadAs(routes.readMessage, { params: { id } }, { accept: 'message/rfc822' });
    } catch (refusal) {
      void message.error(sentenceOf(refusal), 8);
    }
  };
  const { subject, from, to, address, at, replyTo, text, document } = data;
  return (
    <article className="outbox-message" aria-label="Message">
      <h2>{subject}</h2>
      <dl className="fields">
        <dt>From</dt>
        <dd>{from}</dd>
        <dt>To</dt>
        <dd>
          {to.name} · {address}
        </dd>
        <dt>Date</dt>
        <dd>{fullTime(at)}</dd>
        {replyTo && (
          <>
            <dt>Answers go to</dt>
            <dd className="hash">{replyTo}</dd>
          </>
        )}
      </dl>
      <p className="acts">
        {document && (
          <Link to={`/${document.library.code}/documents/${document.id}`}>Open {document.number}</Link>
        )}
        <button type="button" className="quiet" onClick={() => void save()}>
          .eml
        </button>
      </p>
      <pre className="outbox-text">{text}</pre>
      {data.answered && <Answered answered={data.answered} />}
      {data.answer === 'over' && <p className="muted">Over: nothing waits for an answer to this any more.</p>}
      {(data.answer === 'open' || data.answer === 'over') && (
        <AnswerBox id={id} over={data.answer === 'over'} onSaid={setSaid} />
      )}
      <p role="status">{data.answered ? null : said}</p>
    </article>
  );
}

/** One's own answer, and what came of it. */
function Answered({ answered: { at, text, said } }: { answered: NonNullable<Item['answered']> }) {
  return (
    <section aria-label="Your answer">
      <p className="muted">You answered {dayTime(at)}:</p>
      <pre className="outbox-text" dir="auto">
        {text}
      </pre>
      <p role="status">{said}</p>
    </section>
  );
}

/**
 * Answering a message, as from a mail program. Where it is over while one types, what was typed stays in
 * sight.
 */
function AnswerBox({ id, over, onSaid }: { id: string; over: boolean; onSaid: (said: string) => void }) {
  const client = useQueryClient();
  const form = useUnfinished({ key: `answer ${id}`, words: 'Answer to a message' }, { text: '' });
  const { text } = form.value;
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const send = async (): Promise<void> => {
    setBusy(true);
    setError(null);
    try {
      const { said: came } = await call(routes.answerMessage, { params: { id }, body: { text } });
      onSaid(came);
      form.done();
      await Promise.all([
        readAgain(client, { queryKey: messageQuery(id).queryKey }),
        readAgain(client, { queryKey: ['desk'] }),
        readAgain(client, { queryKey: ['document'] }),
      ]);
    } catch (refusal) {
      setError(refusal);
    }
    setBusy(false);
  };
  if (over && form.since === null) return null;
  return (
    <form
      className="outbox-answer"
      aria-label="Answer"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      <Input.TextArea
        aria-label="Your answer"
        autoSize={{ minRows: 2, maxRows: 8 }}
        maxLength={20_000}
        value={text}
        placeholder="approve, reject or later: your comment"
        onChange={(event) => form.change({ text: event.target.value })}
      />
      <div className="acts">
        <Button htmlType="submit" type="primary" loading={busy} disabled={over || text.trim() === ''}>
          Send the answer
        </Button>
      </div>
      <Refusal error={error} />
    </form>
  );
}
