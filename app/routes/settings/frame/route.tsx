import { Link, Outlet, useLocation } from 'react-router';
import { isOpen, PLACES } from './places';

/** What is set once: a line of places over whichever of them is open. */
export default function Settings() {
  const path = useLocation().pathname;
  return (
    <>
      <nav aria-label="Settings" className="flex gap-5 overflow-x-auto border-b border-rule pt-2 text-read">
        {PLACES.map((place) => (
          <Link
            key={place.to}
            to={place.to}
            aria-current={isOpen(place, path) ? 'page' : undefined}
            className="-mb-px border-b-2 border-transparent py-1.5 whitespace-nowrap text-second hover:text-ink aria-[current=page]:border-chestnut aria-[current=page]:font-semibold aria-[current=page]:text-ink"
          >
            {place.label}
          </Link>
        ))}
      </nav>
      <Outlet />
    </>
  );
}
