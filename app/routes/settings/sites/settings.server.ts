import { fail, ok, type Result } from '#core/result';
import { LONGEST_SITE_NAME, siteNameOf } from '#core/plan/site-name';
import { SITE_KINDS, type SiteKind } from '#server/db/source/sites';
import { writtenIn } from '../../../form.server';

/** Reads what a form says a site is. The error is a sentence. */
export function readSiteSettings(form: FormData): Result<{ name: string; kind: SiteKind | null }, string> {
  const written = writtenIn(form, 'name');
  if (written.length > LONGEST_SITE_NAME)
    return fail(`A site’s name may have at most ${LONGEST_SITE_NAME} characters.`);
  const name = siteNameOf(written);
  if (name === null) return fail('A site needs a name.');
  const said = writtenIn(form, 'kind');
  const kind = SITE_KINDS.find((each) => each === said) ?? null;
  return kind === null && said !== ''
    ? fail('A site is our own, a rival’s, a channel, or none of these.')
    : ok({ name, kind });
}
