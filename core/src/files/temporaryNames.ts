/**
 * Names that programs give to what they keep only while they work: lock files, backups, half-written and
 * hidden ones. Common practice of office programs, editors and file managers.
 */
const patterns = [
  /^\./, // hidden: `.~lock.x#`, `._x`, `.DS_Store`, `.x.swp`, `.goutputstream-x`
  /^~/, // `~$x.docx`, `~WRL0001.tmp`
  /~$/, // `x.txt~`
  /\.(tmp|temp|bak|backup|part|partial|crdownload|swp|swx|swo|lock|lck|wbk|xlk|asd|sb-[\w-]+|\$\$\$)$/i,
  /^(thumbs\.db|desktop\.ini|4913)$/i,
  /^[\da-f]{8}(\.tmp)?$/i, // `A1B2C3D4`, which spreadsheets write before they rename
  /^lu\w{6,}\.tmp/i,
];

/** Whether a file of this name is kept only while a program works, and is to become no document. */
export const isTemporaryName = (name: string): boolean => patterns.some((pattern) => pattern.test(name));
