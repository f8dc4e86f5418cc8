/** Who asks, as the door in front of this app has found out; empty where nobody signs in. */
export function whoAsks(headers: Pick<Headers, 'get'>): string {
  return decodeURIComponent(headers.get('x-person') ?? '');
}
