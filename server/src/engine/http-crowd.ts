import type { Crowd } from './mover.ts';

/** The simulated people behind their HTTP door. */
export function httpCrowd(url: string): Crowd {
  return {
    act: async (now) => {
      const answer = await fetch(`${url}/act`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ now }),
      });
      if (!answer.ok) throw new Error(`The simulated people answered ${answer.status}.`);
      return (await answer.json()) as { acted: number; nextAt: number | null };
    },
  };
}
