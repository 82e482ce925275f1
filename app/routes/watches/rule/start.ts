import type { RuleId, WatchId } from '#core/id';
import { startAgain } from '#server/pipeline/episode-actions';
import { readId } from '../../../ids.server';
import { keepingServices, services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/start';

/** Starts a rule again that rests since it was told once. */
export async function action({ params, context }: Route.ActionArgs) {
  asks(context, 'change', { kind: 'watch' });
  const { clock, signals } = services();
  const watch = readId<WatchId>(params.watch);
  const started = await startAgain(await keepingServices(), readId<RuleId>(params.rule), clock());
  if (started > 0) signals.say('watches', `watch:${watch}`);
  return { started };
}
