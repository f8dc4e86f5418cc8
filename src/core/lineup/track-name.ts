/** A title as every file system takes it. */
export function plainName(title: string): string {
  const plain = title
    .normalize('NFC')
    .replaceAll(/[\p{Cc}<>:"/\\|?*]+/gu, ' ')
    .replaceAll(/\s+/g, ' ')
    .replaceAll(/^[. ]+|[. ]+$/g, '');
  return [...plain].slice(0, 60).join('').trim() || 'track';
}
