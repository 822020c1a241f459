import type { ErrorAnswer } from '@ascenso/contracts';
import { setUnderWay } from './leaving.ts';

/** Requests on their way, by what they are for: no JSON, so they stand beside the store. */
const requests = new Map<string, XMLHttpRequest>();

/** What the server says, or null where something between it and the browser speaks. */
function readAnswer<T extends object>(text: string): T | ErrorAnswer | null {
  try {
    return JSON.parse(text) as T | ErrorAnswer;
  } catch {
    return null;
  }
}

/** Ends the sending of a file; the server takes back what it had of it. */
export const cancelSending = (id: string): void => requests.get(id)?.abort();

/** What becomes of a file on its way. */
export interface Sending<T> {
  /** Bytes that have gone. */
  went: (sent: number) => void;
  arrived: (answer: T) => void;
  /** The server does not want it: why. */
  refused: (message: string) => void;
  takenBack: () => void;
  lost: () => void;
}

/**
 * Sends a file as the body of a request; it goes on while other screens are looked at. XMLHttpRequest, since fetch does not
 * tell how much of a body has gone (Fetch standard: no upload progress).
 */
export function sendFile<T extends object>(id: string, url: string, file: File, on: Sending<T>): void {
  const request = new XMLHttpRequest();
  requests.set(id, request);
  const end = (tell: () => void) => () => {
    requests.delete(id);
    setUnderWay(id, false);
    tell();
  };
  request.upload.onprogress = ({ loaded }) => on.went(loaded);
  request.onload = end(() => {
    const answer = readAnswer<T>(request.responseText);
    if (!answer) on.lost();
    else if ('error' in answer) on.refused(answer.error.message);
    else on.arrived(answer);
  });
  request.onabort = end(on.takenBack);
  request.onerror = end(on.lost);
  request.open('POST', `/api${url}`);
  request.setRequestHeader('Content-Type', 'text/csv');
  request.send(file);
  // Only closing the page breaks a file off, so that is asked about.
  setUnderWay(id, true);
}
