/** A long text as a page of its own: as it is, and nothing in it is anything but text. */
export function textResponse(text: string): Response {
  return new Response(text, {
    headers: {
      'content-type': 'text/plain; charset=utf-8',
      'x-content-type-options': 'nosniff',
      'content-security-policy': "default-src 'none'; sandbox",
    },
  });
}
