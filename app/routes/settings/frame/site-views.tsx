import { NavLink } from 'react-router';
import { SITE_VIEWS } from './places';

/** Between sites and their hosts: the heading of either, with the way to the other. */
export function SiteViews() {
  return (
    <nav aria-label="Sites or hosts" className="flex items-baseline gap-4 font-serif text-day font-medium">
      {SITE_VIEWS.map(({ to, label }) => (
        <NavLink key={to} to={to} className="text-third hover:text-ink aria-[current=page]:text-ink">
          {label}
        </NavLink>
      ))}
    </nav>
  );
}
