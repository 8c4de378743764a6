import type { ReactNode } from 'react';
import './strand.css';
import './StrandLegend.css';

/** A dot as the Strand draws one, on its line. */
const dot = (shape: string, more?: ReactNode): ReactNode => (
  <g className={`s-point s-${shape}`}>
    <circle className="s-dot" cx={22} cy={13} r={5} />
    {more}
  </g>
);

/** Each sign of a Strand, and what it says. */
const signs: readonly (readonly [words: string, sign: ReactNode])[] = [
  ['published, on the upper line', dot('solid')],
  ['draft, on the lower line', dot('open')],
  ['in force while the bar runs', <path className="s-bar s-bar-governs" d="M4 13H40" />],
  [
    'in approval: a post for each approver, filled once they approved',
    <g className="s-approval">
      <path className="s-approval-rise" d="M6 22C20 22 22 5 40 5" />
      <path className="s-post s-post-decided" d="M18 8V20" />
      <path className="s-post" d="M27 3V15" />
    </g>,
  ],
  [
    'rejected: it rose, and came back',
    dot('bentBack', <path className="s-bent" d="M27 13c6 0 4-10 8-10s4 5 4 8" />),
  ],
  ['approved, comes into force later', dot('hollowCentred')],
  ['withdrawn', dot('struck', <path className="s-strike" d="M13 20L31 6" />)],
  ['brought back: content of an earlier version', <path className="s-arc" d="M6 6C10 26 34 26 38 6" />],
  [
    'content removed; the line is the days left to recover it',
    <>
      <path className="s-vee" d="M17 7L22 16L27 7" />
      <path className="s-shelf" d="M13 21h12" />
    </>,
  ],
  ['never thinned', dot('solid', <path className="s-roof" d="M13 7L22 1L31 7" />)],
  [
    'drafts folded together, as many as the figure says',
    <>
      <path className="s-lens" style={{ fillOpacity: 0.3 }} d="M6 13Q22 -5 38 13Q22 31 6 13Z" />
      <text className="s-count" x={22} y={17.5}>
        9
      </text>
    </>,
  ],
  ['removed content folded together', <path className="s-run" d="M4 13H40" />],
  ['earlier versions that are not drawn', <path className="s-hatch" d="M8 22L18 4M16 22L26 4M24 22L34 4" />],
  [
    'checked out: a thread from its base to who holds it, a bead for each save',
    <g className="s-custody">
      <path className="s-thread" d="M4 6C10 20 18 20 28 13" />
      <circle className="s-bead" cx={13} cy={15.6} r={2.4} />
      <circle className="s-holder" cx={34} cy={13} r={6} />
      <circle className="s-holder-left" cx={34} cy={13} r={6} strokeDasharray="24 38" />
    </g>,
  ],
  [
    'a copy that was set aside',
    <g className="s-cut">
      <path d="M6 5C8 16 18 14 22 22" />
      <circle cx={22} cy={22} r={2.6} />
    </g>,
  ],
];

/** What each sign of a Strand says, drawn as the Strand draws it. */
export function StrandLegend() {
  return (
    <ul className="strand-legend" aria-label="Signs of the Strand">
      {signs.map(([words, sign]) => (
        <li key={words}>
          <svg width={44} height={26} viewBox="0 0 44 26" aria-hidden="true">
            {sign}
          </svg>
          <span>{words}</span>
        </li>
      ))}
    </ul>
  );
}
