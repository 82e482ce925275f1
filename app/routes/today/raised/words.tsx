import { namesOf } from '#core/judge/words';
import { describeStanding } from '#core/judge/describe';
import { formatValue } from '#core/value/format';
import { isMeasure, sameValue } from '#core/value/value';
import { clausesOf } from '#core/judge/clause';
import { formatDuration, formatRecent, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { EpisodeNow } from '#server/db/rule/raised';
import { listed } from '#core/words';

/** What an episode is of: the record, or the watch where that reads one, with its site. */
const nameOf = ({ record, subject, site }: EpisodeNow) =>
  record === null ? `${subject} at ${site}` : `${record}, ${subject}`;

const standingWords = ({ rule, labels }: EpisodeNow, locale: string) =>
  rule.name ??
  describeStanding(
    rule.when,
    namesOf((key) => labels[key] ?? key, locale),
  );

/** An episode as a sentence: what it is of, what is so, and for how long. */
export function RaisedWords({ episode, place, now }: { episode: EpisodeNow; place: Place; now: Instant }) {
  return (
    <>
      {nameOf(episode)}:{' '}
      <span className="text-chestnut">
        {standingWords(episode, place.locale)} for{' '}
        <span className="whitespace-nowrap">{formatDuration(now - episode.openedAt)}</span>
      </span>
      {episode.rule.weight === 'high' ? (
        <span className="ml-2 font-sans text-glance text-third">high weight</span>
      ) : null}
    </>
  );
}

/** What stands under it: its furthest value, the present one, who was told, who has it. */
export function underWords(episode: EpisodeNow, place: Place, now: Instant): string {
  return [
    peakWords(episode, place, now),
    nowWords(episode, place),
    toldWords(episode, place, now),
    stepWords(episode, place, now),
    handWords(episode, place, now),
  ]
    .filter(Boolean)
    .join(' · ');
}

/** Below a limit the furthest is the lowest. */
function peakName({ rule }: EpisodeNow): string {
  const [only] = clausesOf(rule.when);
  if (only === undefined || !('limits' in only)) return 'furthest';
  return only.limits.is === 'below' ? 'lowest' : only.limits.is === 'above' ? 'highest' : 'furthest';
}

function peakWords(episode: EpisodeNow, place: Place, now: Instant): string {
  const { peak, peakAt } = episode;
  if (!isMeasure(peak)) return '';
  if (episode.now !== null && sameValue(peak, episode.now))
    return `${peakName(episode)} now, ${formatValue(peak, place.locale)}`;
  return `${peakName(episode)} ${formatValue(peak, place.locale)} at ${formatRecent(peakAt, now, place)}`;
}

function nowWords({ now: value, peak }: EpisodeNow, { locale, zone }: Place): string {
  // Of a text its condition says enough.
  if (value === null || value.kind === 'text' || sameValue(value, peak)) return '';
  return value.kind === 'absent' ? 'no value now' : `${short(formatValue(value, locale, zone))} now`;
}

const MOST = 60;
const short = (text: string) => (text.length > MOST ? `${text.slice(0, MOST - 1)}…` : text);

function toldWords({ told }: EpisodeNow, place: Place, now: Instant): string {
  if (told === null) return 'nobody was told';
  return (
    `told ${listed(told.names, MOST_NAMES)} ` +
    `${formatRecent(told.first, now, place)}${told.times > 1 ? `, ${told.times} times` : ''}`
  );
}

const MOST_NAMES = 3;

/** Who is told next, and when, unless somebody takes it on. */
function stepWords({ step, stepAt, takenOn, rule }: EpisodeNow, place: Place, now: Instant): string {
  const of = rule.steps?.length ?? 0;
  if (of === 0) return '';
  const told = step === 0 ? '' : `passed on ${step === 1 ? 'once' : `${step} times`}`;
  if (stepAt === null || takenOn !== null) return told;
  return [
    told,
    stepAt <= now ? 'passed on now' : `passed on at ${formatRecent(stepAt, now, place)} unless somebody takes it on`,
  ]
    .filter(Boolean)
    .join(', ');
}

const DID: Record<EpisodeNow['done'][number]['what'], string> = {
  seen: 'saw it',
  'taken on': 'took it on',
  'let go': 'let it go',
  'put off': 'put it off',
  closed: 'closed it',
  opened: 'opened it',
};

/** What was done about an episode, the latest first. */
export function doneWords({ done }: EpisodeNow, place: Place, now: Instant): string[] {
  return done.map(
    ({ what, by, at, note }) =>
      `${by} ${DID[what]} ${formatRecent(at, now, place)}${note === null ? '' : `: “${note}”`}`,
  );
}

function handWords({ takenOn, putOffUntil }: EpisodeNow, place: Place, now: Instant): string {
  const hand =
    takenOn === null
      ? ''
      : `${takenOn.by} has it since ` +
        `${formatRecent(takenOn.at, now, place)}${takenOn.note === null ? '' : `: “${takenOn.note}”`}`;
  const off =
    putOffUntil === null || putOffUntil <= now ? '' : `put off until ${formatRecent(putOffUntil, now, place)}`;
  return [hand, off].filter(Boolean).join(' · ');
}

const BECAUSE: Record<string, string> = {
  left: 'left',
  edited: 'the rule was edited',
  unlike: 'counted in something else now',
  ended: 'the rule has ended',
  'record gone': 'the record is gone',
  'by hand': 'closed by hand',
};

/** An episode that is over: what it was, from when to when and why it ended, and who was told. */
export function overWords(episode: EpisodeNow, place: Place, now: Instant): [what: string, when: string, told: string] {
  const closed = episode.closedAt ?? now;
  const when =
    `${formatRecent(episode.openedAt, now, place)} to ${formatRecent(closed, now, place)}, ` +
    `${formatDuration(closed - episode.openedAt)}`;
  const because =
    episode.because === null || episode.because === 'left' ? '' : `; ${BECAUSE[episode.because] ?? episode.because}`;
  return [
    `${nameOf(episode)}: ${standingWords(episode, place.locale)}`,
    `${when}${because}`,
    toldWords(episode, place, now),
  ];
}
