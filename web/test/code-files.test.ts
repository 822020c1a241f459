import { beforeEach, describe, expect, test, vi } from 'vitest';

const said = vi.hoisted(() => Object.assign(vi.fn(), { error: vi.fn(), success: vi.fn() }));
vi.mock('sonner', () => ({ toast: said }));
vi.stubGlobal('window', new EventTarget());

/** A request as the browser makes it, whose turns the test decides. */
class FakeRequest {
  static last: FakeRequest;
  upload: { onprogress?: (e: { loaded: number }) => void } = {};
  onload = () => {};
  onabort = () => {};
  onerror = () => {};
  responseText = '';
  opened: string[] = [];
  headers: Record<string, string> = {};
  body: unknown = null;
  constructor() {
    FakeRequest.last = this;
  }
  open(...args: string[]) {
    this.opened = args;
  }
  setRequestHeader(name: string, value: string) {
    this.headers[name] = value;
  }
  send(body: unknown) {
    this.body = body;
  }
  abort() {
    this.onabort();
  }
  answers(body: unknown) {
    this.responseText = typeof body === 'string' ? body : JSON.stringify(body);
    this.onload();
  }
}
vi.stubGlobal('XMLHttpRequest', FakeRequest);
const { store } = await import('../src/app/store.ts');
const { cancelCodes, sendCodes, sendGoodLines } = await import('../src/offers/code-files.ts');

const file = new File(['A-1\nA-2\n'], 'spring.csv', { type: 'text/csv' });
let offer = '';
let n = 0;
const state = () => store.getState().codeFiles[offer];
const send = () => {
  store.dispatch(sendCodes(offer, file, false));
  return FakeRequest.last;
};
/** Whether the page would ask before it is closed. */
const asks = () => !window.dispatchEvent(new Event('beforeunload', { cancelable: true }));
beforeEach(() => {
  offer = `offer${++n}`;
  vi.clearAllMocks();
});

test('a file goes as it is, and how far it is can be seen from any screen', () => {
  const request = send();
  expect([request.opened, request.headers, request.body]).toEqual([
    ['POST', `/api/offers/${offer}/codes`],
    { 'Content-Type': 'text/csv' },
    file,
  ]);
  expect(state()).toEqual({ name: 'spring.csv', size: 8, sent: 0, busy: true, told: null });
  request.upload.onprogress?.({ loaded: 4 });
  expect(state()).toMatchObject({ sent: 4, busy: true });
  request.answers({ added: 1, refused: [], refusedCount: 0 });
  expect(state()).toMatchObject({ busy: false, told: { added: 1 } });
  expect(said.success).toHaveBeenCalledWith('1 code added from “spring.csv”.');
});

test('refused lines stay told, and the good ones can be sent alone', () => {
  send().answers({ added: 0, refused: [{ line: 2, why: 'no code' }], refusedCount: 1 });
  expect(said.success).not.toHaveBeenCalled();
  expect(state()?.told).toMatchObject({ refusedCount: 1 });
  store.dispatch(sendGoodLines(offer));
  expect(FakeRequest.last.opened[1]).toBe(`/api/offers/${offer}/codes?skip=1`);
  expect(FakeRequest.last.body).toBe(file);
  expect(state()).toMatchObject({ busy: true, told: null });
  FakeRequest.last.answers({ added: 1, refused: [], refusedCount: 0 });
});

describe('however a file ends, it is told and can be tried again', () => {
  test.each([
    ['taken back', () => cancelCodes(offer), /was taken back: no code of it was added/],
    ['lost on its way', (r: FakeRequest) => r.onerror(), /did not arrive: no code of it was added/],
    ['answered by something between', (r: FakeRequest) => r.answers('<html>Bad gateway</html>'), /did not arrive/],
    ['refused', (r: FakeRequest) => r.answers({ error: { code: 'x', message: 'No file.' } }), /^No file\.$/],
  ])('%s', (_how, ends, words) => {
    const request = send();
    expect(asks()).toBe(true);
    ends(request);
    expect(state()).toMatchObject({ busy: false, told: null });
    expect([...said.mock.calls, ...said.error.mock.calls].flat().join()).toMatch(words);
    expect(asks()).toBe(false);
    send().answers({ added: 2, refused: [], refusedCount: 0 });
    expect(said.success).toHaveBeenCalledWith('2 codes added from “spring.csv”.');
  });
});

test('two offers take their files at once, each by itself', () => {
  const first = offer;
  const one = send();
  offer = `offer${++n}`;
  const two = send();
  one.upload.onprogress?.({ loaded: 8 });
  expect([store.getState().codeFiles[first]?.sent, state()?.sent]).toEqual([8, 0]);
  one.answers({ added: 2, refused: [], refusedCount: 0 });
  expect(asks()).toBe(true);
  two.answers({ added: 2, refused: [], refusedCount: 0 });
  expect(asks()).toBe(false);
});
