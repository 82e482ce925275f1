import { Link, useSearchParams } from 'react-router';
import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import { describeReason } from '#core/judge/reason';
import { formatValue } from '#core/value/format';
import { isMeasure } from '#core/value/value';
import { formatInstant, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { useReader } from '../../shell/frame/reader';
import type { TimestampView, RuleOnReading } from './timestamp.server';

interface TimestampProps {
  watch: WatchNow;
  moment: TimestampView;
  labelOf: (key: string) => string;
  /** Where a rule opens that is filled in from this reading. */
  ruleFrom: string;
}

/** What each rule made of one reading: why she heard of it, or why she did not. */
export function TimestampOf({ watch, moment, labelOf, ruleFrom }: TimestampProps) {
  const { place, locale } = useReader();
  const { reading, rules, later, others, more, whole, field } = moment;
  return (
    <section className="mt-3 border-y border-rule py-2.5" data-moment aria-labelledby="at-this-reading">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h3 id="at-this-reading" className="font-serif text-head font-medium first-letter:uppercase">
          {labelOf(field)} {reading.bad ? 'was read badly as' : 'was'} {formatValue(reading.value, locale)},{' '}
          {formatInstant(reading.at, 'exact', place)}
        </h3>
        <nav aria-label="Readings" className="flex flex-wrap gap-4 text-glance text-third">
          <Related at={reading.before}>the one before</Related>
          <Related at={reading.after}>the next</Related>
          <Link className="link" to={isMeasure(reading.value) ? `${ruleFrom}&limit=${reading.value.amount}` : ruleFrom}>
            a rule from this reading
          </Link>
          <Related at={null} close>
            close
          </Related>
        </nav>
      </div>
      {rules.length === 0 ? (
        <p className="pt-1 text-second">
          No rule of this watch asked {labelOf(field)} then, so nobody was to hear of it.
        </p>
      ) : (
        <ul className="mt-1">
          {rules.map((rule) => (
            <RuleThen key={rule.id} rule={rule} reading={reading} labelOf={labelOf} />
          ))}
        </ul>
      )}
      <p className="pt-1 text-glance text-third">
        {[
          others === 0 ? '' : `${others} ${others === 1 ? 'rule does' : 'rules do'} not ask ${labelOf(field)}.`,
          later === 0
            ? ''
            : `${later} ${later === 1 ? 'rule that asks it now was' : 'rules that ask it now were'} saved later.`,
          more === 0 ? '' : `${more} more that ask it are not shown.`,
          whole
            ? ''
            : 'Worked out from the latest readings and runs of before alone, and of long texts from their beginning.',
          watch.state === 'paused' ? 'The watch is paused now.' : '',
        ].join(' ')}
      </p>
    </section>
  );
}

/** The way to another reading; nothing where there is none. */
function Related({ at, close = false, children }: { at: Instant | null; close?: boolean; children: string }) {
  const [asked] = useSearchParams();
  if (at === null && !close) return null;
  const { at: _now, ...others } = Object.fromEntries(asked);
  return (
    <Link
      className="link"
      preventScrollReset
      to={`?${new URLSearchParams({ ...others, ...(at === null ? {} : { at: String(at) }) }).toString()}`}
    >
      {children}
    </Link>
  );
}

const KNOWN: Record<RuleOnReading['known'], (at: string) => string> = {
  'written down': (at) => `Written down ${at}.`,
  'worked out': () => 'Worked out anew, from what was read until then.',
  'last written down': (at) => `It asks more than can be worked out anew; written down last ${at}.`,
  'not known': () =>
    'It judged nothing of this record by then, or asks more than can be worked out anew, and nothing was written down.',
  'filtered out': () => '',
};

/** What became of a reading under a rule, as the end of a sentence. */
function becameOf({ definition, known, reason }: RuleOnReading, isBad: boolean, place: Place): string {
  if (isBad) return 'a reading of bad quality is not judged';
  if (definition.off === true) return 'it was switched off';
  if (known === 'filtered out') return 'it runs for other records, and not for this one';
  return reason === null ? 'not known' : describeReason(reason, place);
}

function RuleThen({
  rule,
  reading,
  labelOf,
}: {
  rule: RuleOnReading;
  reading: TimestampView['reading'];
  labelOf: (key: string) => string;
}) {
  const { place, locale } = useReader();
  const { definition, known, at, state } = rule;
  const isJudged = state !== null && !reading.bad && definition.off !== true;
  return (
    <li className="cell" data-rule-then>
      <span className="text-second">
        “{definition.name ?? describeCondition(definition.when, namesOf(labelOf, locale))}”:
      </span>{' '}
      {becameOf(rule, reading.bad, place)}
      {isJudged ? (
        <>
          ; <strong className="font-semibold">{state}</strong>
        </>
      ) : null}
      <span className="block text-glance text-third">
        {KNOWN[known](at === null ? '' : formatInstant(at, 'exact', place))} Version {rule.version} of the rule.
      </span>
    </li>
  );
}
