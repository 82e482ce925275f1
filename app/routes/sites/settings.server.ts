import { fail, ok, type Result } from '#core/result';
import { soundText, withoutDirections } from '#core/value/sound';
import { SITE_KINDS, type SiteKind } from '#server/db/sites';
import { writtenIn } from '../../form.server';

const LONGEST_NAME = 120;

/** Reads what a form says a site is. The error is a sentence. */
export function readSiteSettings(form: FormData): Result<{ name: string; kind: SiteKind | null }, string> {
  const name = withoutDirections(soundText(writtenIn(form, 'name')))
    .replace(/\s+/g, ' ')
    .trim();
  if (name === '') return fail('A site needs a name.');
  if (name.length > LONGEST_NAME) return fail(`A site’s name may have at most ${LONGEST_NAME} characters.`);
  const said = writtenIn(form, 'kind');
  const kind = SITE_KINDS.find((each) => each === said) ?? null;
  return kind === null && said !== '' ? fail('A site is our own, a rival’s, a channel, or none of these.') : ok({ name, kind });
}
