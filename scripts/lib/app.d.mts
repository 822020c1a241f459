export interface AppOptions {
  fresh?: boolean;
  days?: number;
  people?: number;
  engines?: number;
  fast?: boolean;
  report?: (line: string) => void;
  databaseUrl?: string;
}
export function startApp(
  name: string,
  options?: AppOptions,
): Promise<{ base: string; url: string; stop: () => Promise<void> }>;
