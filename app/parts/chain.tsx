import type { Link as ChainLink } from '#core/tell/chain';
import type { ReactNode } from 'react';

/** The chain as a line with five beads. A broken link is hollow and says why; it reads without colour. */
export function Chain({ links, remedies }: { links: ChainLink[]; remedies?: Partial<Record<ChainLink['name'], ReactNode>> }) {
  return (
    <ol aria-label="The chain" className="grid grid-cols-1 gap-y-3 md:grid-cols-5">
      {links.map((link, at) => (
        <li key={link.name} data-link={link.name} data-state={link.state} className="relative pr-4 pl-6 md:pt-[18px] md:pl-0">
          <span
            aria-hidden="true"
            className={`absolute left-[5px] w-px bg-ink md:top-[5px] md:left-0 md:h-px md:w-full ${at === 4 ? 'hidden md:block md:max-w-[42px]' : 'top-[9px] h-[calc(100%+12px)]'}`}
          />
          <Bead state={link.state} />
          <p className={`font-semibold ${link.state === 'broken' ? 'text-chestnut' : ''}`}>
            {link.name}
            <span className="sr-only">{link.state === 'broken' ? ', broken' : link.state === 'open' ? ', open' : ', holds'}</span>
          </p>
          <p className="text-glance break-words text-second">{link.said}</p>
          {remedies?.[link.name] && link.state === 'broken' ? <div className="text-glance">{remedies[link.name]}</div> : null}
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
  return <span aria-hidden="true" className={`absolute top-[4px] left-0 size-[11px] rounded-full border md:top-0 ${BEADS[state]}`} />;
}

/** The chain in a list's row: five small beads, and the words for those who do not see them. */
export function ChainBeads({ links }: { links: ChainLink[] }) {
  const broken = links.filter((link) => link.state === 'broken');
  const words = broken.length === 0 ? 'The chain holds' : `Broken at ${broken.map((link) => link.name.toLowerCase()).join(' and ')}`;
  return (
    <span role="img" aria-label={words} title={words} className="inline-flex items-center">
      {links.map((link, at) => (
        <span key={link.name} className="inline-flex items-center">
          {at === 0 ? null : <span className="h-px w-[7px] bg-third" />}
          <span
            className={`size-[7px] rounded-full border ${link.state === 'broken' ? 'border-chestnut bg-page' : link.state === 'open' ? 'border-second bg-page' : 'border-ink bg-ink'}`}
          />
        </span>
      ))}
    </span>
  );
}
