const LONGEST_NAME = 200;

/** What a sender's file name is shown as: its last part, without control characters, and never empty. */
export function safeFileName(name: string): string {
  const last = name.split(/[/\\]/).at(-1) ?? '';
  // Control characters, and those that reverse the direction of what is read.
  const clean = last.replace(/[\p{Cc}\u202a-\u202e\u2066-\u2069]/gu, '').trim();
  if (clean === '' || /^\.+$/.test(clean)) return 'unnamed';
  const characters = [...clean];
  if (characters.length <= LONGEST_NAME) return clean;
  const extension = /\.[^.]{1,8}$/.exec(clean)?.[0] ?? '';
  return `${characters.slice(0, LONGEST_NAME - extension.length - 1).join('')}…${extension}`;
}

/** The title that a programme starts with: its file's name without the extension. */
export function titleFromFileName(fileName: string): string {
  return fileName.replace(/\.[a-z][a-z0-9]{1,4}$/i, '') || fileName;
}
