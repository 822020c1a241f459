import { NavLink } from 'react-router';

/** The rooms of People. */
export function PeopleTabs() {
  const tab = ({ isActive }: { isActive: boolean }) =>
    `px-3 py-1.5 font-semibold first:rounded-l-control last:rounded-r-control ${isActive ? 'bg-spruce-tint text-spruce-deep' : 'text-ink-2 hover:bg-paper-2'}`;
  return (
    <nav aria-label="People" className="flex rounded-control border border-line bg-sheet">
      <NavLink to="/people" end className={tab}>
        Everyone
      </NavLink>
      <NavLink to="/people/attributes" className={tab}>
        Attributes, points
      </NavLink>
      <NavLink to="/people/segments" className={tab}>
        Segments
      </NavLink>
      <NavLink to="/people/lists" className={tab}>
        Lists and tags
      </NavLink>
      <NavLink to="/people/import" className={tab}>
        Import
      </NavLink>
      <NavLink to="/people/no-mail" className={tab}>
        No mail
      </NavLink>
      <NavLink to="/people/events" className={tab}>
        Events and keys
      </NavLink>
    </nav>
  );
}
