/** Whether one of some texts has what is looked for in it, whatever its capitals. */
export const has = (texts: readonly string[], sought: string): boolean =>
  texts.some((text) => text.toLocaleLowerCase().includes(sought.trim().toLocaleLowerCase()));
