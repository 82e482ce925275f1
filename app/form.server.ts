import { data } from 'react-router';
import { sanitiseText, withoutDirections } from '#core/value/sanitise';

const MOST_BYTES = 1_000_000;

/**
 * The one way to read a form: of at most 1 MB where nothing else is said, and its texts of whole characters alone,
 * without marks that turn their direction. Whatever is no form answers 400.
 */
export async function readForm(request: Request, mostBytes = MOST_BYTES): Promise<FormData> {
  const bytes = await readBounded(request, mostBytes);
  if (bytes === null)
    throw data(`A form may have at most ${Math.round(mostBytes / 1_000_000)} MB here.`, { status: 413 });
  const type = request.headers.get('content-type') ?? '';
  const form = await new Response(new Uint8Array(bytes), { headers: { 'content-type': type } })
    .formData()
    .catch(() => null);
  if (form === null) throw data('This is not a form.', { status: 400 });
  const clean = new FormData();
  for (const [name, value] of form)
    clean.append(sanitiseText(name), typeof value === 'string' ? withoutDirections(sanitiseText(value)) : '');
  return clean;
}

/** A text of a form as it was written; another one where there is none. */
export function writtenIn(form: FormData, name: string, otherwise = ''): string {
  const value = form.get(name);
  return typeof value === 'string' ? value : otherwise;
}

/** A text of a form, trimmed; empty where there is none. */
export const textIn = (form: FormData, name: string): string => writtenIn(form, name).trim();

/** The whole of a body, or null past the bound, without reading further. */
async function readBounded(request: Request, mostBytes: number): Promise<Buffer | null> {
  if (Number(request.headers.get('content-length') ?? 0) > mostBytes) return null;
  return readAll(request, mostBytes);
}

/** The whole of a request's body, or null past a bound. */
export async function readAll(request: Request, mostBytes: number): Promise<Buffer | null> {
  const pieces: Uint8Array[] = [];
  let size = 0;
  if (request.body === null) return Buffer.alloc(0);
  for await (const piece of request.body as unknown as AsyncIterable<Uint8Array>) {
    size += piece.length;
    if (size > mostBytes) return null;
    pieces.push(piece);
  }
  return Buffer.concat(pieces);
}
