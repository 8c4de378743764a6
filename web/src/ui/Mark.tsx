/** The mark: a draft rising to a published version, which is in force from there. */
export function Mark() {
  return (
    <svg width="30" height="30" viewBox="0 0 32 32" aria-hidden="true">
      <path d="M3 23h6c7 0 6-14 13-14" fill="none" stroke="var(--published)" strokeWidth="2" />
      <path d="M22 9h8" fill="none" stroke="var(--published)" strokeWidth="4.4" />
      <circle cx="9" cy="23" r="4" fill="var(--paper)" stroke="var(--draft)" strokeWidth="2.4" />
      <circle cx="21" cy="9" r="4.6" fill="var(--published)" />
    </svg>
  );
}
