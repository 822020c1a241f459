import type { Step } from '@ascenso/core';
import { useWorld } from './world.ts';

/** A world with what tests of the engine ask of it again and again. */
export function useEngine() {
  const world = useWorld();
  let counter = 0;
  const address = (domain = 'readers.example') => `reader${++counter}@${domain}`;
  const mailTo = (email: string) => world.mail().filter((m) => m.to === email);
  /** When the emails to somebody came, to the minute in UTC. */
  const at = (email: string) => mailTo(email).map((m) => new Date(m.at).toISOString().slice(0, 16));
  const codes = async (email: string) => (await world.trace(email)).map((t) => t.code);

  /** A sequence of its own event (`type`), so that tests do not meet. */
  async function sequenceOf(
    steps: Step[],
    more: object = {},
  ): Promise<{ id: string; type: string; start: (email: string, data?: Record<string, unknown>) => Promise<void> }> {
    const type = `kit.bought${++counter}`;
    const id = await world.live({
      name: type,
      list: null,
      triggers: [{ kind: 'event', event: type, where: [] }],
      steps,
      ...more,
    });
    return {
      id,
      type,
      start: async (subject, data = {}) => void (await world.event({ type, subject, data }).expect(202)),
    };
  }
  return { world, address, mailTo, at, codes, sequenceOf };
}
