import { lazy, Suspense, type ComponentProps } from 'react';

const Inner = lazy(() => import('./html-editor-inner.tsx'));

/** The editor for sources, fetched when one is first opened. */
export function HtmlEditor(props: ComponentProps<typeof Inner>) {
  return (
    <Suspense fallback={<p className="text-ink-2">Opening the editor …</p>}>
      <Inner {...props} />
    </Suspense>
  );
}
