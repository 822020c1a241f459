import morphdom from 'morphdom';
import { useEffect, useRef, useState, type CSSProperties } from 'react';

const LINES = ['w-1/3', 'w-full', 'w-5/6', 'w-1/2'];

/**
 * An email that is written while one looks at it. Its page stays and only what differs in it is changed: it is never blank,
 * keeps its place, and costs no navigation, which took longer than all the rest from the key to the eye. No script runs in
 * it; that it is of our origin lets us reach in, and nothing out. Grey lines stand there until there is something.
 */
export function LiveEmailFrame({
  html,
  title,
  className = '',
  style,
}: {
  html: string | null;
  title: string;
  className?: string;
  style?: CSSProperties;
}) {
  const frame = useRef<HTMLIFrameElement>(null);
  const [ready, setReady] = useState(false);
  useEffect(() => {
    const page = frame.current?.contentDocument;
    if (!ready || !page || html === null) return;
    const next = new DOMParser().parseFromString(html.replace('<head>', '<head><base target="_blank">'), 'text/html');
    morphdom(page.documentElement, next.documentElement);
  }, [ready, html]);
  return (
    <div className={`relative ${className}`} style={style}>
      {html === null && (
        <div aria-hidden="true" className="absolute inset-0 flex flex-col gap-3 bg-white p-8">
          {LINES.map((w) => (
            <span key={w} className={`h-4 rounded bg-paper ${w}`} />
          ))}
        </div>
      )}
      <iframe
        ref={frame}
        title={title}
        srcDoc="<!doctype html><html><head></head><body></body></html>"
        sandbox="allow-same-origin"
        onLoad={() => setReady(true)}
        className={`h-full w-full border-0 bg-white ${html === null ? 'invisible' : ''}`}
      />
    </div>
  );
}
