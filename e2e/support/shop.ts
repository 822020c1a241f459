import { expect, type Page } from '@playwright/test';
import { fresh } from './hands.ts';

/** The shop as it tells Ascenso of its customers: by a key of its own, through the doors for other programs. */
export interface Shop {
  /** Puts a new customer on the “Workshop letters”; their address. */
  joins: () => Promise<string>;
  tells: (type: string, email: string, data: object) => Promise<void>;
}

/** Whoever is signed in has to be an owner: the key is made for it. */
export async function openShop(page: Page): Promise<Shop> {
  const origin = new URL(page.url()).origin;
  const made = await page.request.post('/api/keys', { data: { name: fresh('Checkout ') }, headers: { origin } });
  const { key } = (await made.json()) as { key: string };
  const told = async (path: string, body: object, type: string) => {
    const answer = await page.request.post(path, {
      data: JSON.stringify(body),
      headers: { Authorization: `Bearer ${key}`, 'Content-Type': type },
    });
    expect(answer.ok(), await answer.text()).toBe(true);
  };
  return {
    joins: async () => {
      const email = `${fresh('buyer')}@readers.example`;
      await told('/intake/subscribers', { email, lists: ['Workshop letters'] }, 'application/json');
      return email;
    },
    tells: (type, subject, data) =>
      told(
        '/intake/events',
        { specversion: '1.0', id: fresh('e'), source: 'https://foldwell.example/shop', type, subject, data },
        'application/cloudevents+json',
      ),
  };
}
