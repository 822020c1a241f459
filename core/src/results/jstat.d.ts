declare module 'jstat' {
  interface Distribution<P extends number[]> {
    /** The share that lies below x. */
    cdf: (x: number, ...parameters: P) => number;
  }
  const jstat: {
    beta: Distribution<[alpha: number, beta: number]>;
    normal: Distribution<[mean: number, sd: number]>;
  };
  export default jstat;
}
