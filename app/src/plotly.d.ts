/** The part of the charting package that is used; it ships without types. */
declare module 'plotly.js-basic-dist-min' {
  interface Plotly {
    react(element: HTMLElement, data: readonly object[], layout: object, config: object): Promise<void>;
    purge(element: HTMLElement): void;
  }
  const plotly: Plotly;
  export default plotly;
}
