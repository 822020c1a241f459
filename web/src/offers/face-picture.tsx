import { useEffect, useState } from 'react';
import type { After, TimerFace } from '@ascenso/core';

/** Rest of the hands before a face is drawn anew, ms. */
const REST_MS = 200;
const known = new Map<string, Promise<string>>();

/** Address of a timer drawn by the server, the same as a mail program is sent. */
function drawn(body: string): Promise<string> {
  const picture =
    known.get(body) ??
    fetch('/api/timers/preview', { method: 'POST', body, headers: { 'Content-Type': 'application/json' } })
      .then((r) => (r.ok ? r.blob() : Promise.reject(new Error(String(r.status)))))
      .then((blob) => URL.createObjectURL(blob));
  known.set(body, picture);
  if (known.size > 60) known.delete(known.keys().next().value as string);
  return picture;
}

/** A timer with so many seconds left, drawn by the server. */
export function FacePicture({
  face,
  left,
  after,
  alt,
  width,
}: {
  face: TimerFace;
  left: number;
  after: After;
  alt: string;
  width?: number;
}) {
  const body = JSON.stringify({ face, left, after });
  const [src, setSrc] = useState<string>();
  useEffect(() => {
    let stale = false;
    const timer = setTimeout(
      () => {
        drawn(body).then(
          (s) => {
            if (!stale) setSrc(s);
          },
          () => known.delete(body),
        );
      },
      src ? REST_MS : 0,
    );
    return () => {
      stale = true;
      clearTimeout(timer);
    };
    // A new address is no reason to draw anew.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [body]);
  const shown = width ?? face.width;
  return src ? (
    <img src={src} alt={alt} style={{ width: shown, maxWidth: '100%', height: 'auto', display: 'inline-block' }} />
  ) : (
    <span
      role="img"
      aria-label={alt}
      className="inline-block rounded-control bg-paper-2"
      style={{ width: shown, maxWidth: '100%', aspectRatio: '5' }}
    />
  );
}
