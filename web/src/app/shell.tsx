import { Clock } from 'lucide-react';
import { useEffect } from 'react';
import { Navigate, NavLink, Outlet, useLocation, useNavigate } from 'react-router';
import { MINUTE, momentWords, periodWords, zoneOf } from '@ascenso/core';
import { api, useMeQuery } from './api.ts';
import { useClockQuery } from '../outside/endpoints.ts';
import { useOldest } from './ages.ts';
import { GoingOut } from './going-out.tsx';
import { JumpBox } from '../finding/jump-box.tsx';
import { useAct } from './store.ts';
import { ActionMenu } from '../ui/index.tsx';

const places = [
  { to: '/sequences', name: 'Sequences' },
  { to: '/library', name: 'Library' },
  { to: '/offers', name: 'Offers' },
  { to: '/people', name: 'People' },
  { to: '/results', name: 'Results' },
];

export function Mark() {
  return (
    <svg viewBox="0 0 24 24" className="size-6" aria-hidden="true">
      <path d="M2 20h5v-5h5v-5h5V5h5" fill="none" stroke="#e8895f" strokeWidth="2.6" />
    </svg>
  );
}

/** Said on every screen: nothing goes out while no engine is at work. */
function EngineAway() {
  const { data } = useClockQuery(undefined, { pollingInterval: 20_000 });
  if (data?.engineAway == null) return null;
  const minutes = Math.floor(data.engineAway / MINUTE);
  return (
    <p role="status" className="border-b border-line bg-brick-tint px-4 py-2 font-semibold text-brick">
      The engine has been away for {minutes < 1 ? 'less than a minute' : periodWords(minutes, 'minutes')}: nothing goes
      out until it is back. What was due is sent then.
    </p>
  );
}

/** Said wherever a figure is shown that is not of now. */
function OldFigures({ page }: { page: string }) {
  const oldest = useOldest(page);
  const dispatch = useAct();
  if (oldest === null) return null;
  const at = new Intl.DateTimeFormat(undefined, { timeStyle: 'medium' }).format(oldest);
  return (
    <p role="status" className="border-b border-line bg-ochre-tint px-4 py-1 text-[13px]">
      Some figures here are as of {at}.{' '}
      <button
        type="button"
        className="font-semibold underline"
        onClick={() => void dispatch(api.util.invalidateTags(['numbers', 'people', 'sequences']))}
      >
        Look again
      </button>
    </p>
  );
}

/** The clock in the top bar; on the practice clock it leads to the simulated world. */
function TopClock({ zone }: { zone: string }) {
  const { data, refetch } = useClockQuery(undefined, { pollingInterval: 20_000 });
  const moving = data?.moving ?? false;
  useEffect(() => {
    if (!moving) return;
    const timer = setInterval(() => void refetch(), 700);
    return () => clearInterval(timer);
  }, [moving, refetch]);
  if (!data?.practice) return null;
  return (
    <NavLink
      to="/outside"
      className="flex items-center gap-1.5 rounded-control px-2 py-1.5 text-[13px] text-[#f0cdbb] hover:bg-white/10"
    >
      <Clock size={15} aria-hidden="true" />
      <span className="sr-only md:not-sr-only">
        {moving ? 'Moving ahead: ' : 'Practice clock · '}
        {momentWords(zoneOf(zone), data.now)}
      </span>
    </NavLink>
  );
}

export function Shell() {
  const { data: me, isLoading } = useMeQuery();
  const dispatch = useAct();
  const navigate = useNavigate();
  const { pathname, search } = useLocation();
  if (isLoading) return <p className="p-8 text-ink-2">One moment …</p>;
  if (!me) return <Navigate to="/sign-in" state={{ from: pathname + search }} replace />;
  const signOut = async () => {
    await fetch('/api/session', { method: 'DELETE' });
    dispatch(api.util.resetApiState());
    window.location.assign('/sign-in');
  };
  const initials = me.user.name
    .split(' ')
    .map((w) => w[0])
    .slice(0, 2)
    .join('');
  return (
    <div className="flex h-screen min-h-0 flex-col">
      <header className="flex h-12 print:hidden shrink-0 items-center gap-2 bg-spruce-deep px-4 text-white">
        <NavLink to="/sequences" className="flex shrink-0 items-center gap-2 font-head text-[17px] font-bold sm:mr-3">
          <Mark />
          <span className="sr-only sm:not-sr-only">Ascenso</span>
        </NavLink>
        <nav aria-label="Main" className="flex min-w-0 items-center gap-1 overflow-x-auto">
          {places.map((p) => (
            <NavLink
              key={p.to}
              to={p.to}
              className={({ isActive }) =>
                `rounded-control px-3 py-1.5 ${isActive ? 'bg-white/15 font-semibold' : 'hover:bg-white/10'}`
              }
            >
              {p.name}
            </NavLink>
          ))}
        </nav>
        <span className="flex-1" />
        <JumpBox />
        <TopClock zone={me.workspace.zone} />
        <ActionMenu
          name={`${me.user.name}, ${me.workspace.name}`}
          className="flex size-7 shrink-0 items-center justify-center rounded-full bg-[#e9b48f] text-[11px] font-bold text-ink"
          entries={[
            { label: 'Password and sessions', act: () => void navigate('/account') },
            { label: 'Sign out', act: () => void signOut() },
          ]}
        >
          {initials}
        </ActionMenu>
      </header>
      <EngineAway />
      <GoingOut />
      <OldFigures page={pathname} />
      <main className="flex min-h-0 flex-1 flex-col overflow-auto">
        <Outlet />
      </main>
    </div>
  );
}
