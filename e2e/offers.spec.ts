import { expect, test, type Page } from '@playwright/test';
import { axe, beginSequence, closeDialog, fresh, pick, signIn, writeMoment } from './support/hands.ts';

const DAY = 86_400_000;
const HOME = 'Europe/Lisbon';

interface Clock {
  now: number;
  moving: boolean;
  shop: string;
}
const clockOf = async (page: Page) => (await (await page.request.get('/api/outside/clock')).json()) as Clock;

/** Moves the practice clock ahead and waits until it has arrived. */
async function ahead(page: Page, by: 'hour' | 'day' | 'week', times = 1): Promise<void> {
  for (let i = 0; i < times; i++) {
    const headers = { origin: new URL(page.url()).origin };
    const answer = await page.request.post('/api/outside/clock/ahead', { data: { by }, headers });
    expect(answer.ok(), await answer.text()).toBe(true);
    const { target } = (await answer.json()) as { target: number };
    await expect.poll(async () => (await clockOf(page)).moving, { timeout: 60_000 }).toBe(false);
    expect((await clockOf(page)).now, 'the clock has arrived').toBeGreaterThanOrEqual(target);
  }
}

/** Hours that a zone is ahead of UTC at an instant, by the browser's and Node's own Intl. */
function offsetOf(zone: string, at: number): number {
  const parts = new Intl.DateTimeFormat('en', { timeZone: zone, timeZoneName: 'longOffset' }).formatToParts(at);
  const [, hours = '0'] = /GMT([+-]\d\d)?/.exec(parts.find((p) => p.type === 'timeZoneName')?.value ?? '') ?? [];
  return Number(hours);
}

/** Somebody puts a kit into a cart of the shop, begins to order, and goes away. Answers the address of the checkout. */
async function leaveACart(shop: Page, address: string, email: string): Promise<string> {
  // Somebody else's browser: it carries no cart yet.
  await shop.context().clearCookies({ name: 'foldwell_cart' });
  await shop.goto(address);
  await shop
    .getByRole('listitem')
    .filter({ hasText: 'Coptic kit' })
    .getByRole('button', { name: 'Into the cart' })
    .click();
  await shop.getByLabel('Your email address').fill(email);
  await shop.getByRole('button', { name: 'To the checkout' }).click();
  await expect(shop.getByRole('heading', { name: 'Checkout' })).toBeVisible();
  return shop.url();
}

const useCode = async (shop: Page, code: string) => {
  await shop.getByLabel('A code you have').fill(code);
  await shop.getByRole('button', { name: 'Use this code' }).click();
};

test('from no offer at all to a code and a timer in three emails, an order in the shop, and the money on the offer’s page', async ({
  page,
  context,
}) => {
  const name = fresh('Cart offer ');
  const buyer = `${fresh('buyer')}@readers.example`;
  const waverer = `${fresh('waverer')}@readers.example`;
  await signIn(page);
  const { now, shop: shopAddress } = await clockOf(page);
  // The offer closes on the day after the clocks change: its hour is kept.
  const days =
    Array.from({ length: 300 }, (_, d) => d + 3).find(
      (d) => offsetOf(HOME, now + (d - 1) * DAY) !== offsetOf(HOME, now),
    ) ?? 3;
  expect(days, 'the practice clock stands less than two months before a change of clocks').toBeLessThanOrEqual(60);

  // The offer.
  await page.getByRole('link', { name: 'Offers' }).click();
  await expect(page.getByRole('heading', { name: 'Offers' })).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: 'New offer' }).click();
  await page.getByLabel('What is it called here?').fill(name);
  await axe(page);
  await page.getByRole('button', { name: 'Make this offer' }).click();
  await expect(page.getByText('No email makes it yet.')).toBeVisible();
  await page.getByRole('button', { name: '10% off', exact: true }).click();
  await page.getByLabel('Words after it').fill('one order');
  await page.getByLabel('Words after it').press('Enter');
  await expect(page.getByText('A reader reads “10% off one order”')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'a code of their own' }).click();
  await page.getByLabel('Begins with').fill('try-');
  await page.getByLabel('Begins with').press('Enter');
  await expect(page.getByText('TRY-SAMP-LESA')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: '48 hours after the first email that gives it' }).click();
  await pick(page.getByLabel('Of', { exact: true }), 'days');
  await page.getByLabel('How many').fill(String(days));
  await page.getByLabel('How many').blur();
  await pick(page.getByLabel('At', { exact: true }), '18:00, their time');
  await page.getByLabel('At', { exact: true }).press('Escape');
  await expect(
    page.getByRole('button', { name: `${days} days after the first email that gives it at 18:00` }),
  ).toBeVisible();
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  await axe(page);
  const offerPage = page.url();

  // A sequence that a checkout starts, with its first email.
  const sequence = fresh('Left at the till ');
  await beginSequence(page, sequence);
  await pick(page.getByLabel('It starts when someone'), 'does something (an event)');
  await pick(page.getByLabel('Which event'), 'Began an order (order.begun)');
  await pick(page.getByLabel('It mails'), 'service mail: receipts and repairs, no list needed');
  await page.getByRole('button', { name: 'Add the first email' }).click();
  await page.locator('[data-step]:focus', { hasText: 'New email' }).press('Enter');
  await page.getByRole('textbox', { name: 'Subject' }).click();
  await page.keyboard.type(`${sequence} for you`);
  await page.getByRole('textbox', { name: 'Text of the block' }).click();
  await page.keyboard.type('Your cart is still here.');
  const outline = page.getByRole('complementary', { name: 'Blocks' });
  await outline.getByRole('button', { name: 'Code', exact: true }).click();
  // A code without an offer is an error that leads to where it is mended.
  await expect(page.getByRole('button', { name: /(errors?|to look at)$/ })).toBeVisible();
  await page.getByRole('button', { name: /(errors?|to look at)$/ }).click();
  await expect(page.getByRole('dialog')).toContainText('makes no offer');
  await closeDialog(page);
  await pick(page.getByRole('combobox', { name: 'Offer', exact: true }), name);
  await outline.getByRole('button', { name: 'Timer', exact: true }).click();
  await page.getByRole('group', { name: 'Faces' }).getByRole('button', { name: 'Press' }).click();
  // The face is made one's own, and kept for other emails.
  await page.getByText('Make the face your own').click();
  await pick(page.getByLabel('Corners'), 'round');
  await page.getByLabel('Keep this face in the house style').fill('Our till');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(
    page.getByRole('group', { name: 'Faces' }).getByRole('button', { name: 'Our till', pressed: true }),
  ).toBeVisible();
  await outline.getByRole('button', { name: 'Button', exact: true }).first().click();
  await page.getByRole('textbox', { name: 'Words on the button' }).click();
  await page.keyboard.type('Back to my cart');
  await page.getByRole('textbox', { name: 'Address' }).click();
  await page.keyboard.type('{{');
  await page.getByLabel('Find a field').fill('return');
  await page.getByLabel('Find a field').press('Enter');
  // The phone shows a sample, and the deadline as it would be for whoever it is read as.
  const phone = page.frameLocator('iframe[title="The email on a phone"]');
  await expect(phone.getByText('TRY-SAMP-LESA')).toBeVisible();
  // At six in the evening of their own zone, as it is written there.
  await expect(phone.getByText(/Good until .*(18[:.]00|6:00\sPM)/)).toBeVisible();
  await expect(phone.getByRole('img', { name: /^Closes on .*(18[:.]00|6:00\sPM)/ })).toHaveAttribute(
    'src',
    /^data:image\/gif/,
  );
  await expect(page.locator('[data-canvas]').getByRole('img', { name: 'Closes on' })).toHaveAttribute('src', /^blob:/);
  await axe(page);

  // Two reminders: copies of it, a day apart.
  const id = new URL(page.url()).pathname.split('/')[2] ?? '';
  await page.getByRole('link', { name: 'Back to the plan' }).click();
  await expect(page.getByRole('group', { name: 'Plan' })).toBeVisible();
  interface Draft {
    revision: number;
    draft: { steps: { id: string; email: { blocks: { id: string }[] } }[] };
  }
  const { revision, draft } = (await (await page.request.get(`/api/sequences/${id}`)).json()) as Draft;
  const [first] = draft.steps;
  if (!first) throw new Error('There is no first email.');
  const copy = (n: number) => ({ ...first, id: `${first.id}-${n}`, name: `Reminder ${n}` });
  const wait = (n: number) => ({
    id: `wait-${n}-${id}`,
    on: true,
    note: '',
    kind: 'wait',
    amount: 1,
    unit: 'days',
    at: null,
  });
  const commands = [wait(1), copy(1), wait(2), copy(2)].map((step, i) => ({
    type: 'step.insert',
    place: { arm: null, index: i + 1 },
    step,
  }));
  const origin = { origin: new URL(page.url()).origin };
  const saved = await page.request.post(`/api/sequences/${id}/commands`, {
    data: { base: revision, edits: [{ role: 'edit', commands }] },
    headers: origin,
  });
  expect(saved.ok(), await saved.text()).toBe(true);
  await page.reload();
  await page.getByRole('button', { name: 'Publish version 1' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Publish/ })
    .click();
  await expect(page.getByText('Live · version 1')).toBeVisible();

  // Two people leave their carts; the first emails come.
  const shop = await context.newPage();
  await leaveACart(shop, shopAddress, buyer);
  const waverersCart = await leaveACart(shop, shopAddress, waverer);
  await ahead(page, 'hour');
  const codeOf = async (email: string) => {
    await page.goto(`/outside?q=${email}`);
    await page
      .getByRole('link', { name: new RegExp(`${sequence} for you`) })
      .last()
      .click();
    const code = page.frameLocator('iframe').locator('.code');
    await expect(code).toHaveText(/^TRY-\w{4}-\w{4}$/);
    return (await code.textContent()) ?? '';
  };
  const waverersCode = await codeOf(waverer);
  const code = await codeOf(buyer);
  expect(code).not.toBe(waverersCode);
  const message = page.frameLocator('iframe');
  const timer = await message.getByRole('img', { name: /^Closes on/ }).getAttribute('src');
  const gif = await page.request.get(timer ?? '');
  expect([gif.status(), (await gif.body()).subarray(0, 6).toString(), gif.headers()['cache-control']]).toEqual([
    200,
    'GIF89a',
    'no-store, no-cache, must-revalidate, max-age=0',
  ]);

  // Back through the email's button to that very cart; somebody else's code is refused, one's own taken.
  // A page behind another opens nothing.
  await page.bringToFront();
  const opening = context.waitForEvent('page');
  await message.getByRole('link', { name: 'Back to my cart' }).click();
  const till = await opening;
  await expect(till.getByText(`For ${buyer}`)).toBeVisible();
  // The link has said who came; once they agree, the shop's other pages know them too.
  await till.getByRole('button', { name: 'Yes' }).click();
  await useCode(till, waverersCode);
  await expect(till.getByRole('alert')).toContainText('somebody else');
  await useCode(till, code.toLowerCase());
  await expect(till.getByText('−€3.20')).toBeVisible();
  await till.getByRole('button', { name: 'Place the order' }).click();
  await expect(till.getByText(/€28\.80/)).toBeVisible();
  await till.getByRole('link', { name: 'Back to the shop' }).click();
  await till.getByRole('link', { name: /Coptic kit/ }).click();
  await expect(till.getByRole('heading', { name: 'Coptic kit' })).toBeVisible();
  expect(new URL(till.url()).search).toBe('');

  // The money is on the offer's page, the use in their story, and no further email goes to them.
  await page.goto(offerPage);
  await expect(page.getByText('€28.80')).toBeVisible();
  await axe(page);
  await ahead(page, 'day', 3);
  await page.goto(`/people?q=${buyer}`);
  await page.getByRole('link', { name: buyer }).click();
  await expect(page.getByText(new RegExp(`“Reminder 1” was left out: “${name.trim()}.*was used`))).toBeVisible();
  await expect(page.getByText(new RegExp(`Used “${name.trim()}.*28\\.8 EUR`))).toBeVisible();
  await expect(page.getByText(/^Reached “Coptic kit · Foldwell Bindery”/).first()).toBeVisible();
  await axe(page);

  // Whoever wavers is reminded with the same code, to the same hour across the change of clocks, and then it is over.
  await page.goto(`/people?q=${waverer}`);
  await page.getByRole('link', { name: waverer }).click();
  await expect(page).toHaveURL(/\/people\/[0-9a-f-]+$/);
  const wavererId = new URL(page.url()).pathname.split('/')[2] ?? '';
  const { offers } = (await (await page.request.get(`/api/people/${wavererId}`)).json()) as {
    offers: { openedAt: number; closesAt: number }[];
  };
  const given = offers[0] ?? { openedAt: 0, closesAt: 0 };
  const wall = (at: number) =>
    new Intl.DateTimeFormat('sv-SE', { timeZone: HOME, dateStyle: 'short', timeStyle: 'short' }).format(at);
  expect(wall(given.closesAt)).toBe(`${wall(given.openedAt + days * DAY).slice(0, 10)} 18:00`);
  expect(offsetOf(HOME, given.closesAt)).not.toBe(offsetOf(HOME, given.openedAt));
  await page.goto(`/outside?q=${waverer}`);
  await expect(page.getByRole('link', { name: new RegExp(`${sequence} for you`) })).toHaveCount(3);
  expect(await codeOf(waverer)).toBe(waverersCode);
  const left = Math.ceil((given.closesAt - (await clockOf(page)).now) / DAY);
  await ahead(page, 'week', Math.floor(left / 7));
  await ahead(page, 'day', (left % 7) + 1);
  await shop.goto(waverersCart);
  await useCode(shop, waverersCode);
  await expect(shop.getByRole('alert')).toContainText(/This offer closed on .*18:00 in Lisbon/);
  await page.goto(`/people/${wavererId}`);
  await expect(page.getByText(new RegExp(`“${name.trim()}.*” closed unused`))).toBeVisible();
  // The simulated people shop too: they are not to be reminded by this sequence in other tests.
  await page.request.post(`/api/sequences/${id}/status`, { data: { status: 'archived' }, headers: origin });
});

test('codes from a file are added or told line by line, and a timer for a page is an address of its own', async ({
  page,
}) => {
  await signIn(page);
  await page.goto('/offers');
  const name = fresh('Pool ');
  await page.getByRole('button', { name: 'New offer' }).click();
  await page.getByLabel('What is it called here?').fill(name);
  await pick(page.getByLabel('What is given'), 'something else, in words');
  await page.getByLabel('In words, as a reader reads it').fill('A sheet of paper');
  await page.getByRole('button', { name: 'Make this offer' }).click();
  await page.getByRole('button', { name: 'a code of their own' }).click();
  await pick(page.getByLabel('Each person gets'), 'a code of their own, from a file');
  await page.keyboard.press('Escape');
  await expect(page.getByText('0 left')).toBeVisible();
  const own = fresh('P');
  const file = (text: string) => ({ name: 'codes.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
  const choose = (text: string) => page.getByLabel('Add codes from a CSV file').setInputFiles(file(text));
  await choose(`code\n${own}-1\nnot a code\n${own}-2\n${own}-1\n`);
  await expect(page.getByText('Nothing was added: 2 lines are no new code.')).toBeVisible();
  await expect(page.getByText(/Line 3: “not a code” is no code/)).toBeVisible();
  await axe(page);
  await page.getByRole('button', { name: 'Add the others' }).click();
  await expect(page.getByText('2 left')).toBeVisible();
  await page
    .getByRole('button', { name: 'it goes out without one' })
    .or(page.getByRole('button', { name: 'the email waits for new ones' }))
    .first()
    .click();
  await pick(page.getByLabel('When no code is left'), 'it goes out without one');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'it goes out without one' })).toBeVisible();

  // A long file over a slow line: it goes on while one looks elsewhere, and is taken back whole.
  const line = await page.context().newCDPSession(page);
  const slow = (uploadThroughput: number) =>
    line.send('Network.emulateNetworkConditions', {
      offline: false,
      latency: 0,
      downloadThroughput: -1,
      uploadThroughput,
    });
  await slow(100_000);
  await choose(Array.from({ length: 150_000 }, (_, i) => `${own}-L${i}\n`).join(''));
  await expect(page.getByRole('progressbar', { name: /Reading “codes.csv”: \d+%/ })).toBeVisible();
  await axe(page);
  await page.getByRole('link', { name: 'Offers', exact: true }).click();
  await page.getByRole('link', { name }).click();
  await expect(page.getByRole('progressbar', { name: /Reading “codes.csv”: [1-9]\d?%/ })).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('“codes.csv” was taken back: no code of it was added.')).toBeVisible();
  await slow(-1);
  await choose(`${own}-L0\n`);
  await expect(page.getByText('1 code added from “codes.csv”.')).toBeVisible();
  await expect(page.getByText('3 left')).toBeVisible();

  await page.goto('/offers');
  await page.getByRole('button', { name: 'Timer for a page' }).click();
  await page.getByRole('button', { name: 'Medal' }).click();
  await writeMoment(page, /^Counts to/, '2031-03-31', '18:00');
  // The clocks of the house change before that, and what it means is said.
  await expect(
    page.getByText(/^The clocks in Lisbon go (forward|back) by 1 hour before that, on \d+ \w+\. 18:00 is by/),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Make its address' }).click();
  const address = await page.getByLabel(/^Address of the picture/).inputValue();
  await axe(page);
  expect((await (await page.request.get(address)).body()).subarray(0, 6).toString()).toBe('GIF89a');
  // The address is signed: another moment in it is no address of ours.
  expect((await page.request.get(address.replace('/t/', '/t/e'))).status()).toBe(404);
});
