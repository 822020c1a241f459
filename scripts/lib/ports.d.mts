export function freePort(): Promise<number>;
export function isFree(port: number): Promise<boolean>;
export function portsOf(folder: string, options: { anew: boolean }): Promise<Record<string, number>>;
