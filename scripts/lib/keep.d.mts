export interface Begun {
  ended: Promise<unknown>;
  stop: () => Promise<void>;
}
export function keepGoing(
  name: string,
  begin: () => Promise<Begun>,
  report: (line: string) => void,
): { ready: Promise<void>; stop: () => Promise<void> };
export function keepProcess(
  name: string,
  file: string,
  how: { env: NodeJS.ProcessEnv; report: (line: string) => void; note: (name: string, pid: number) => void },
): { ready: Promise<void>; stop: () => Promise<void> };
