import type { RunId, WatchId } from '#core/id';
import { data } from 'react-router';
import { changesSheet, recordsSheet } from '#core/compare/run-sheet';
import { FILE_FORMS } from '#core/tell/definition';
import { changesOfRun, findWatchRun, recordsAt } from '#server/db/watch/views/runs';
import { findWatch } from '#server/db/watch/views/watch-now';
import { fileName, FILE_TYPES } from '#server/files/edition-files';
import { sheetFile } from '#server/files/sheet-file';
import { readId, readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/file';

/** What a run read, or what moved with it, as a file. */
export async function loader({ params, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const { what } = params;
  const form = FILE_FORMS.find((each) => each === params.form);
  if (form === undefined || (what !== 'records' && what !== 'changes'))
    throw data('The records and the changes of a run can be had as CSV, XLSX or JSON.', { status: 404 });
  const { pool } = services();
  const run = readLongId<RunId>(params.run);
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  const at = watch === null ? null : await findWatchRun(pool, watch.id, run);
  if (watch === null || at === null) throw data('There is no such run, or it read nothing.', { status: 404 });
  const sheet =
    what === 'records'
      ? recordsSheet(watch.definition.fields, await recordsAt(pool, watch.id, at))
      : changesSheet(await changesOfRun(pool, watch.id, run));
  const name = `${watch.definition.subject}, ${what}`;
  return new Response(new Uint8Array(await sheetFile(form, sheet, name)), {
    headers: {
      'content-type': FILE_TYPES[form],
      'content-disposition': `attachment; filename="${fileName(name)}-${new Date(at).toISOString().slice(0, 10)}-${run}.${form}"`,
      'x-content-type-options': 'nosniff',
    },
  });
}
