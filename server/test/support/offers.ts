import request from 'supertest';
import { beforeAll, beforeEach } from 'vitest';
import { blankOffer, blockKinds, type Offer } from '@ascenso/core';
import { emailStep, FRIDAY_NOON, owner, testId, useWorld } from './world.ts';

const HOUR = 3_600_000;

export interface OffersBody {
  offers: { id: string; offer: Offer; funnel: object }[];
}

/** A world with what tests of offers ask of it. Each test has a week, a list and offers of its own. */
export function useOffers() {
  const world = useWorld();
  let agent: ReturnType<typeof request.agent>;
  let now = FRIDAY_NOON;
  let n = 0;
  beforeAll(async () => {
    agent = request.agent(world.app);
    await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  });
  beforeEach(() => later(7 * 24 * HOUR));

  /** Stands the clock still some ms later, with a list that nobody is on yet. */
  async function later(ms: number): Promise<void> {
    now += ms;
    await world.stand(now);
    world.list = await world.addList(world.ws, `Letters ${++n}`);
  }
  const unique = (word: string) => `${word}${++n}`;
  const address = () => `${unique('reader')}@readers.example`;
  const gives = (some: Partial<Offer> = {}): Offer => ({
    ...blankOffer(),
    name: unique('Kit offer '),
    around: { before: '', after: 'one order' },
    codes: {
      kind: 'made',
      pattern: { prefix: `K${n}-`, alphabet: 'letters and figures', length: 7, group: 4, check: true },
    },
    ...some,
  });
  async function addOffer(some: Partial<Offer> = {}): Promise<string> {
    const { body } = await agent.post('/api/offers').send(gives(some)).expect(200);
    return (body as { id: string }).id;
  }
  /** An email that makes an offer: its code, its deadline in words, its timer. */
  function offering(name: string, offer: string) {
    const step = emailStep(name, { subject: `${name}: {{ offer.code | default: "none" }}` });
    step.email.offer = offer;
    step.email.blocks.splice(1, 0, blockKinds.code.blank(testId), blockKinds.timer.blank(testId));
    return step;
  }
  const mailTo = (to: string) =>
    world
      .mail()
      .filter((m) => m.to === to)
      .map((m) => m.subject);
  const shop = (method: 'get' | 'post', path: string, key = world.key) =>
    request(world.app)[method](`/intake/codes/${path}`).set('Authorization', `Bearer ${key}`);
  const importing = (offer: string, text: string, query = '') =>
    agent.post(`/api/offers/${offer}/codes${query}`).set('Content-Type', 'text/csv').send(text);
  return {
    world,
    /** Signed in as the owner. */
    agent: () => agent,
    /** Where the clock of this test stood at its beginning, epoch ms. */
    now: () => now,
    later,
    unique,
    address,
    gives,
    addOffer,
    offering,
    mailTo,
    shop,
    importing,
  };
}

/** The code in the subject of an email of `offering`. */
export const codeIn = (subject: string | undefined) => subject?.split(': ')[1] ?? '';
export const codesOf = (trace: { code: string }[]) => trace.map((t) => t.code);
