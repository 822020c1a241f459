import { useSupport } from './preview.ts';

/** What of this email looks different in some mail programs, from published tests of theirs. */
export function SupportNote({ html }: { html: string }) {
  const found = useSupport(html);
  if (!found || found.length === 0) return null;
  return (
    <details className="mt-4 border-t border-line pt-3">
      <summary className="cursor-pointer font-semibold">
        {found.length} things in it are not known to every mail program
      </summary>
      <p className="mt-1 text-ink-2">
        None of them hides what you say: where one is not known, the email looks plainer. From the tests published at
        caniemail.com.
      </p>
      <ul className="mt-2 flex max-h-64 flex-col gap-1 overflow-y-auto">
        {found.map((f) => (
          <li key={f.feature} className="grid grid-cols-[11rem_1fr] gap-3">
            <code className="text-[13px]">{f.words}</code>
            <span className="text-[13px] text-ink-2">
              {f.programs.length > 4
                ? `${f.programs.slice(0, 4).join('; ')} and ${f.programs.length - 4} more`
                : f.programs.join('; ')}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
