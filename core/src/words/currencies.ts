// ISO 4217, list one: currencies whose minor unit is not a hundredth.
const NONE = new Set('BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF'.split(' '));
const THREE = new Set('BHD IQD JOD KWD LYD OMR TND'.split(' '));
const FOUR = new Set(['CLF', 'UYW']);

/** Decimals of an amount in major units: 2 for EUR, 0 for JPY (ISO 4217, minor unit). */
export const currencyDecimals = (currency: string): number =>
  NONE.has(currency) ? 0 : THREE.has(currency) ? 3 : FOUR.has(currency) ? 4 : 2;

/** An amount in minor units (cents) of one in major units, rounded. */
export const toMinor = (major: number, currency: string): number =>
  // By way of the decimal notation: 1.005 * 100 is 100.49999999999999.
  Math.round(Number(`${major.toFixed(10)}e${currencyDecimals(currency)}`));

/** An amount in major units of one in minor units. */
export const toMajor = (minor: number, currency: string): number => minor / 10 ** currencyDecimals(currency);
