/** Text of a drawing, as the build takes it in. */
declare module '*.svg' {
  const text: string;
  export default text;
}
