import type { Line } from '#core/tell/edition/lines';
import { groupWords, lineWords } from '#core/tell/edition/words';
import { describeNet } from '#core/tell/net-words';
import type { Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { EditionNow } from '#server/db/report/editions';
import type { Span } from '#server/db/report/window';
import { orderedLinesIn } from '#server/pipeline/report/gather';
import { services } from '../../../services.server';

/** So many lines stand on a page. */
const SIZE = 100;

/** A line of an edition as a row. */
export interface LineRow {
  key: number;
  group: string;
  watch: number;
  name: string;
  site: string;
  kind: string;
  fields: { label: string; said: string }[];
  at: Instant;
}

/** One page of every line of an edition, in its order. */
export interface LinesPage {
  rows: LineRow[];
  page: number;
  size: number;
  count: number;
  /** It told of lines, and what they were made of was let go. */
  gone: boolean;
}

/** The stretch that an edition covers. */
export const spanOf = ({ fromSeq, toSeq, fromAt, madeAt }: EditionNow): Span => ({
  fromSeq,
  toSeq,
  from: fromAt ?? madeAt,
  until: madeAt,
});

/**
 * A page of every line that an edition's stretch holds, also those that its mails have no room for; past the last page
 * the last.
 */
export async function pageOfLines(edition: EditionNow, page: number, place: Place): Promise<LinesPage> {
  const { report, order, madeAt, document } = edition;
  const all = await orderedLinesIn(services().pool, report, order, spanOf(edition), document?.share ?? null);
  const shown = Math.min(page, Math.max(0, Math.ceil(all.length / SIZE) - 1));
  const from = shown * SIZE;
  const rows = all
    .slice(from, from + SIZE)
    .map(({ group, line }, at) => rowOf(line, groupWords(group), from + at, madeAt, place));
  return {
    rows,
    page: shown,
    size: SIZE,
    count: all.length,
    gone: all.length === 0 && (document?.counts.lines ?? 0) > 0,
  };
}

function rowOf(
  { record, kind, fields, at }: Line,
  group: string,
  key: number,
  until: Instant,
  { locale }: Place,
): LineRow {
  const said = fields.map(({ field, net }) => ({ label: field.label, said: describeNet(net, locale, until) }));
  return {
    key,
    group,
    watch: record.watch,
    name: record.name,
    site: record.site.name,
    kind: lineWords(kind),
    fields: said,
    at,
  };
}
