import { atomFeed } from '#core/tell/atom';
import { withoutRenderedImages } from '#core/tell/rendered-image';
import { cut } from '#core/value/sanitise';
import { latestContents } from '#server/db/report/editions';
import { findPersonById, placeOf } from '#server/db/person/people';
import { findReport } from '#server/db/report/reports';
import { editionMail } from '../../../parts/edition-mail.server';
import { services } from '../../../services.server';
import type { Route } from './+types/route';

const MOST_ENTRIES = 30;
const LONGEST_SUMMARY = 400;
/** Of HTML in all: the editions beyond are named, and read where they lead. */
const MOST_HTML = 2_000_000;

/**
 * The latest editions of a report as a feed; programs that read feeds do not sign in, and its address says what they
 * may read.
 */
export async function loader({ params }: Route.LoaderArgs) {
  const { pool, links, config } = services();
  const asked = links.openFeed(params.token);
  const found = asked === null ? null : await findReport(pool, asked.report);
  const report = found?.feed === asked?.number ? found : null;
  const owner = report === null ? null : await findPersonById(pool, report.ownerId);
  if (report === null || owner === null)
    return new Response('This address is of no feed, of a report that has ended, or has ended.', { status: 404 });
  const reader = { name: owner.name, place: placeOf(owner) };
  const tag = (what: string) => `tag:${config.mailDomain},2026:${what}`;
  let room = MOST_HTML;
  const entries = (await latestContents(pool, report.id, MOST_ENTRIES)).map((edition) => {
    const { subject, html, text } = editionMail({ ...edition, name: report.name }, reader);
    room -= html.length;
    return {
      id: tag(`edition/${edition.id}`),
      title: subject,
      updated: edition.madeAt,
      link: `${config.publicUrl}/editions/${edition.id}`,
      summary: cut(text.split('\n\n----\n\n')[1] ?? '', LONGEST_SUMMARY),
      html: room >= 0 ? bodyOf(withoutRenderedImages(html)) : null,
    };
  });
  const feed = atomFeed({
    id: tag(`report/${report.id}`),
    title: report.name,
    self: `${config.publicUrl}/feed/${params.token}`,
    page: `${config.publicUrl}/reports/${report.id}`,
    author: owner.name,
    updated: entries[0]?.updated ?? report.madeAt,
    entries,
  });
  return new Response(feed, {
    headers: { 'content-type': 'application/atom+xml; charset=utf-8', 'cache-control': 'private, max-age=60' },
  });
}

/** What stands in the body of a page of ours. */
const bodyOf = (html: string): string =>
  html.slice(html.indexOf('>', html.indexOf('<body')) + 1, html.lastIndexOf('</body>'));
