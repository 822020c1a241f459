const BROWSERS: [RegExp, string][] = [
  [/Edg(e|A|iOS)?\//, 'Edge'],
  [/OPR\//, 'Opera'],
  [/(Firefox|FxiOS)\//, 'Firefox'],
  [/(Chrome|CriOS|Chromium)\//, 'Chrome'],
  [/Safari\//, 'Safari'],
];
const SYSTEMS: [RegExp, string][] = [
  [/iPhone|iPad/, 'an iPhone or iPad'],
  [/Android/, 'Android'],
  [/Windows/, 'Windows'],
  [/Mac OS X/, 'a Mac'],
  [/Linux|CrOS/, 'Linux'],
];

const first = (all: [RegExp, string][], agent: string) => all.find(([pattern]) => pattern.test(agent))?.[1];

/** What a browser says of itself (User-Agent), in words: "Firefox on Windows". */
export function agentWords(agent: string): string {
  const browser = first(BROWSERS, agent);
  const system = first(SYSTEMS, agent);
  if (!browser && !system) return agent === '' ? 'A browser that does not say which' : 'Another program';
  return `${browser ?? 'A browser'} on ${system ?? 'another system'}`;
}
