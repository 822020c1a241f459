declare module 'dictionary-files/*' {
  const address: string;
  export default address;
}
