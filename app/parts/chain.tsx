import type { Link as ChainLink } from '#core/tell/chain';
import type { ReactNode } from 'react';

/** The chain as a line with five beads. A broken link is hollow and says why; it reads without colour. */
export function Chain({
  links,
  remedies,
}: {
  links: ChainLink[];
  remedies?: Partial<Record<ChainLink['name'], ReactNode>>;
}) {
  return (
    <ol aria-label="The chain" className="grid grid-cols-1 gap-y-3 md:grid-cols-5">
      {links.map((link, at) => (
        <li
          key={link.name}
          data-link={link.name}
          data-state={link.state}
          className="relative pr-4 pl-6 md:pt-[18px] md:pl-0"
        >
          <span
            aria-hidden="true"
            className={
              'absolute left-[5px] w-px bg-ink md:top-[5px] md:left-0 md:h-px md:w-full ' +
              `${at === 4 ? 'hidden md:block md:max-w-[42px]' : 'top-[9px] h-[calc(100%+12px)]'}`
            }
          />
          <Bead state={link.state} />
          <p className={`font-semibold ${link.state === 'broken' ? 'text-chestnut' : ''}`}>
            {link.name}
            <span className="sr-only">
              {link.state === 'broken' ? ', broken' : link.state === 'open' ? ', open' : ', holds'}
            </span>
          </p>
          <p className="text-glance break-words text-second">{link.said}</p>
          {remedies?.[link.name] && (link.state === 'broken' || link.mendable) ? (
            <div className="text-glance">{remedies[link.name]}</div>
          ) : null}
        </li>
      ))}
    </ol>
  );
}

const BEADS: Record<ChainLink['state'], string> = {
  holds: 'bg-ink border-ink',
  open: 'bg-page border-ink',
  broken: 'bg-page border-chestnut border-[1.5px] size-[13px]! -mt-px',
};

function Bead({ state }: { state: ChainLink['state'] }) {
  return (
    <span
      aria-hidden="true"
      className={`absolute top-[4px] left-0 size-[11px] rounded-full border md:top-0 ${BEADS[state]}`}
    />
  );
}

const APART = 14;
const FIRST = 3.5;

/** The beads of one state, each a point that a round pen makes. */
const beadsOf = (states: ChainLink['state'][], state: ChainLink['state']) =>
  states.map((each, at) => (each === state ? `M${FIRST + at * APART} ${FIRST}h.01` : '')).join('');

/**
 * The chain in a list's row: five small beads on a line, and the words for those who do not see them. Few elements, for
 * lists are long.
 */
export function ChainBeads({ states, words }: { states: ChainLink['state'][]; words: string }) {
  const [holds, open, broken] = (['holds', 'open', 'broken'] as const).map((state) => beadsOf(states, state));
  return (
    <svg role="img" className="beads" width="63" height="7">
      <title>{words}</title>
      <path d={`M0 ${FIRST}H${FIRST * 2 + APART * (states.length - 1)}`} />
      {holds === '' ? null : <path className="bead-holds" d={holds} />}
      {open === '' ? null : <path className="bead-open" d={open} />}
      {open === '' ? null : <path className="bead-hollow" d={open} />}
      {broken === '' ? null : <path className="bead-broken" d={broken} />}
      {broken === '' ? null : <path className="bead-hollow" d={broken} />}
    </svg>
  );
}

/** The chain's state in words. */
export function chainWords(links: ChainLink[]): string {
  const broken = links.filter((link) => link.state === 'broken');
  return broken.length === 0
    ? 'The chain holds'
    : `Broken at ${broken.map((link) => link.name.toLowerCase()).join(' and ')}`;
}
