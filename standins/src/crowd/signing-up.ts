// How the simulated people sign up: by the hosted form, as a browser without script does.

/** A form that is filled in faster is a program's, ms of real time. */
const READS_FOR = 2_000;

/** Addresses of networks that are nobody's (RFC 5737): people do not all sit behind one line. */
const networkOf = (n: number) => `203.0.${(n >> 8) & 255}.${n & 255}`;

const field = (html: string, name: string) => new RegExp(`name="${name}" value="([^"]*)"`).exec(html)?.[1] ?? '';

/** Sends forms that it has read once, and confirms what the emails about them ask. */
export class SigningUp {
  readonly #read = new Map<string, Promise<string>>();

  /** The mark of when a form was read: one reading does for all who fill it in later. */
  #begun(form: string): Promise<string> {
    const known = this.#read.get(form);
    if (known) return known;
    const reading = (async () => {
      const page = await (await fetch(form)).text();
      await new Promise((resolve) => setTimeout(resolve, READS_FOR));
      return field(page, 't');
    })();
    this.#read.set(form, reading);
    return reading;
  }

  /** Person `n` fills a form in. Throws where it is refused. */
  async send(form: string, n: number, values: Record<string, string>): Promise<void> {
    const answer = await fetch(form, {
      method: 'POST',
      headers: { 'X-Forwarded-For': networkOf(n) },
      body: new URLSearchParams({ ...values, agree: 'yes', t: await this.#begun(form) }),
    });
    if (!answer.ok) throw new Error(`${form} answered ${answer.status}: ${await answer.text()}`);
    await answer.arrayBuffer();
  }

  /** Follows the link of a confirmation email, and presses the button of the page that it leads to. */
  async confirm(link: string): Promise<void> {
    const page = await fetch(link);
    await page.arrayBuffer();
    if (page.ok) await (await fetch(page.url, { method: 'POST', redirect: 'manual' })).arrayBuffer();
  }
}
