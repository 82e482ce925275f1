/** An image that a browser may keep for an hour, and take for nothing else. */
export function imageResponse(image: Buffer): Response {
  return new Response(new Uint8Array(image), {
    headers: {
      'content-type': 'image/jpeg',
      'cache-control': 'private, max-age=3600',
      'x-content-type-options': 'nosniff',
    },
  });
}
