/** The mark: the bar of what is in force, and the next version rising into it. */
export function Mark() {
  return (
    <svg width="30" height="30" viewBox="0 0 32 32" aria-hidden="true">
      <path d="M3 10h26" fill="none" stroke="var(--published)" strokeWidth="4.4" />
      <path d="M3 24h6c7 0 5-14 12-14" fill="none" stroke="var(--draft)" strokeWidth="2.6" />
      <circle cx="21" cy="10" r="5" fill="var(--published)" />
    </svg>
  );
}
