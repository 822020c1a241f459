declare module '*?raw' {
  const text: string;
  export default text;
}
declare module 'nspell' {
  interface Speller {
    add: (word: string) => Speller;
    correct: (word: string) => boolean;
    suggest: (word: string) => string[];
  }
  export default function nspell(aff: string, dic: string): Speller;
}
