/** What a page may load and do: its own things only. Of scripts, those that this answer itself names by a number used once. */
export function securityHeaders(nonce: string, isDevelopment: boolean): Record<string, string> {
  const policy = [
    "default-src 'self'",
    // Development evaluates code and listens on a socket besides.
    `script-src 'self' 'nonce-${nonce}'${isDevelopment ? " 'unsafe-eval'" : ''}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    // A film is put together from its pieces in the page.
    "media-src 'self' blob:",
    `connect-src 'self'${isDevelopment ? ' ws:' : ''}`,
    "object-src 'none'",
    "base-uri 'self'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ];
  return {
    'X-Content-Type-Options': 'nosniff',
    'X-Frame-Options': 'DENY',
    'Referrer-Policy': 'no-referrer',
    'Content-Security-Policy': policy.join('; '),
  };
}
