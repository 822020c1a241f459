import { NavLink } from 'react-router';

const one = (on: boolean, small = false) =>
  `${small ? 'px-3 py-1 text-[13px]' : 'px-3 py-1.5'} font-semibold first:rounded-l-control last:rounded-r-control ${on ? 'bg-spruce-tint text-spruce-deep' : 'text-ink-2 hover:bg-paper-2'}`;
const FRAME = 'flex rounded-control border border-line bg-sheet';

/** The rooms of a place, each an address of its own. */
export function RoomTabs({ name, rooms }: { name: string; rooms: readonly (readonly [to: string, label: string])[] }) {
  return (
    <nav aria-label={name} className={FRAME}>
      {rooms.map(([to, label], i) => (
        // The first room is the place itself: what lies below it is another.
        <NavLink key={to} to={to} end={i === 0} className={({ isActive }) => one(isActive)}>
          {label}
        </NavLink>
      ))}
    </nav>
  );
}

/** Two or more ways to look at one thing, one of them now. */
export function ViewTabs<V extends string>({
  name,
  value,
  views,
  choose,
  small = false,
}: {
  name: string;
  value: V;
  views: readonly (readonly [value: V, label: string])[];
  choose: (value: V) => void;
  small?: boolean;
}) {
  return (
    <div role="group" aria-label={name} className={FRAME}>
      {views.map(([v, label]) => (
        <button
          key={v}
          type="button"
          aria-pressed={value === v}
          onClick={() => choose(v)}
          className={one(value === v, small)}
        >
          {label}
        </button>
      ))}
    </div>
  );
}
