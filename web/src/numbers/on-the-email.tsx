import { useMemo } from 'react';
import type { LinkNumbers } from '@ascenso/contracts';
import { readLinkRef } from '@ascenso/core';
import { EmailFrame, Dialog, number } from '../ui/index.tsx';
import { useClickedEmailQuery } from './endpoints.ts';

const BADGE =
  'display:inline-block;margin-left:4px;padding:1px 7px;border-radius:999px;background:#143f37;color:#ffffff;font:600 12px/16px sans-serif;vertical-align:middle;white-space:nowrap';

/** The email with the people of each link beside it. What nobody clicked has a nought. */
function withPeople(html: string, links: readonly LinkNumbers[]): string {
  const page = new DOMParser().parseFromString(html, 'text/html');
  for (const a of page.querySelectorAll<HTMLAnchorElement>('a[href^="#link-"]')) {
    const ref = readLinkRef(a.getAttribute('href')?.slice('#link-'.length) ?? '');
    a.removeAttribute('href');
    if (!ref) continue;
    const own = links.find((l) => l.number === ref.number && l.repeat === ref.repeat);
    const badge = page.createElement('span');
    badge.setAttribute('style', own ? BADGE : BADGE.replace('#143f37', '#566163'));
    badge.textContent = number(own?.people ?? 0);
    a.insertAdjacentElement('afterend', badge);
  }
  return page.documentElement.outerHTML;
}

/** Where an email was clicked, on the email itself. */
export function OnTheEmail({
  sequence,
  step,
  links,
  onClose,
}: {
  sequence: string;
  step: string;
  links: readonly LinkNumbers[];
  onClose: () => void;
}) {
  const { data } = useClickedEmailQuery({ id: sequence, step });
  const html = useMemo(() => (data?.email ? withPeople(data.email.html, links) : null), [data, links]);
  return (
    <Dialog open onClose={onClose} title="Where it was clicked" wide>
      {data && !data.email && <p className="text-ink-2">It has not been sent to anybody yet.</p>}
      {data?.email && html && (
        <>
          <p className="mb-2 text-ink-2">
            As it went to {data.email.to}; beside each link, how many people clicked it. In a list the clicks of all its
            items are together.
          </p>
          <EmailFrame title="The email with its clicks" html={html} className="h-[60vh] w-full" />
        </>
      )}
    </Dialog>
  );
}
