import type { EditionDocument } from '#core/tell/edition/document';
import type { Share } from '#core/tell/edition/share';
import type { ReportDefinition } from '#core/tell/definition';
import type { Instant } from '#core/when/interval';
import type { Db } from '../../db/base/pool';
import { membersOf, ownerStaying } from '../../db/report/reports';
import { findReader, type OpenReport, type Reader } from '../order/reports';
import type { PartOfCut } from './parts';

/** An edition of a cut with those who read it. */
export interface NotifiedPart extends Pick<PartOfCut, 'of'> {
  document: EditionDocument;
  readers: Reader[];
}

/**
 * Who reads which edition of a cut (14). Where nobody is named, or all who are have left, it goes to those who read the
 * rest; where the addresses of all refuse mail, it goes to those, too. Whoever reads the rest and leaves is replaced by
 * the report's owner.
 */
export async function whoHears(
  db: Db,
  report: OpenReport,
  order: ReportDefinition,
  parts: PartOfCut[],
  now: Instant,
): Promise<NotifiedPart[]> {
  const members = await membersOf(db, [...order.readers, ...parts.flatMap(({ named }) => named ?? [])]);
  const staying = (keys: string[]) => {
    const ids = new Set(keys.flatMap((key) => members.get(key) ?? []));
    return report.readers.filter(({ id }) => ids.has(id));
  };
  const rest = staying(order.readers);
  const fallback =
    rest.length > 0 || parts.every(({ document }) => document.share === null) ? rest : await ownerOf(db, report, now);
  return parts.map(({ document, named, of }): NotifiedPart => {
    const { share } = document;
    if (share === null) return { document, of, readers: rest };
    const own = staying(named ?? []);
    const because = whyFallback(named, own);
    const shared: Share = share.of === 'value' ? { ...share, because } : share;
    return {
      document: { ...document, share: shared },
      of,
      readers: because === null ? own : eachOnce([...own, ...fallback]),
    };
  });
}

async function ownerOf(db: Db, { id }: OpenReport, now: Instant): Promise<Reader[]> {
  const owner = await ownerStaying(db, id);
  return owner === null ? [] : [(await findReader(db, id, owner, now)).reader];
}

function whyFallback(named: string[] | null, own: Reader[]): Extract<Share, { of: 'value' }>['because'] {
  if (named === null) return 'nobody named';
  if (own.length === 0) return 'all left';
  return own.every(({ kept }) => kept === 'paused') ? 'all paused' : null;
}

const eachOnce = (readers: Reader[]): Reader[] =>
  readers.filter(({ id }, place) => readers.findIndex((other) => other.id === id) === place);
