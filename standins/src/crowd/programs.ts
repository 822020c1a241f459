import { hashOf, randomFrom } from './random.ts';

/** What a reader's programs call themselves, when they fetch the pictures of an email and when a link is followed. */
interface Programs {
  opens: string;
  clicks: string;
}

const same = (agent: string): Programs => ({ opens: agent, clicks: agent });
const IPHONE = 'Mozilla/5.0 (iPhone; CPU iPhone OS 19_1 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko)';
const IPAD = 'Mozilla/5.0 (iPad; CPU OS 19_1 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko)';
const ANDROID = 'Mozilla/5.0 (Linux; Android 16; Pixel 9) AppleWebKit/537.36 (KHTML, like Gecko)';
const PROXY = 'Mozilla/5.0 (Windows NT 5.1; rv:11.0) Gecko Firefox/11.0 (via ggpht.com GoogleImageProxy)';
const WINDOWS = 'Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko)';

/** Programs and how many of a hundred readers have them: about four in five read on a phone (common practice, no published source). */
const READERS: readonly [share: number, Programs][] = [
  [38, { opens: `${IPHONE} Mobile/15E148`, clicks: `${IPHONE} Version/19.1 Mobile/15E148 Safari/604.1` }],
  [40, { opens: PROXY, clicks: `${ANDROID} Chrome/142.0.0.0 Mobile Safari/537.36` }],
  [2, same(`${IPAD} Version/19.1 Mobile/15E148 Safari/604.1`)],
  [8, same('Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Thunderbird/140.5.0')],
  [12, same(`${WINDOWS} Chrome/142.0.0.0 Safari/537.36`)],
];

/** The programs of a reader, by their address: always the same. */
export function programsOf(email: string): Programs {
  let at = randomFrom(hashOf(`${email}/programs`))() * 100;
  const found = READERS.find(([share]) => (at -= share) < 0);
  return found ? found[1] : same('');
}
