import type Plotly from 'plotly.js-basic-dist-min';
import { ChangeDetectionStrategy, Component, effect, ElementRef, inject, input, signal } from '@angular/core';

/** One line of a {@link LineChart}. */
export interface ChartLine {
  readonly name: string;
  readonly x: readonly (number | string)[];
  readonly y: readonly (number | null)[];
  readonly dashed?: boolean;
}

/** Inks that are told apart without colour too, by their dashes. */
const INKS = ['--ink', '--lichen', '--chalk-blue', '--brass', '--madder', '--brick'] as const;
const DASHES = ['solid', 'solid', 'dash', 'dot', 'dashdot', 'longdash'] as const;

/** Changes that come sooner than this after another wait until none came for as long, ms. */
const REST_MS = 150;

/** Lines over one axis each way, drawn by Plotly, which is loaded when the first chart is shown. */
@Component({
  selector: 'ap-line-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { role: 'img', '[attr.aria-label]': 'label()' },
  template: ``,
  styles: `
    :host {
      display: block;
      width: 100%;
    }
  `,
})
export class LineChart {
  readonly label = input.required<string>();
  /** Lines over a measure, or bars lying beside their names, the first at the top. */
  readonly kind = input<'lines' | 'bars'>('lines');
  readonly unit = input(' %');
  readonly lines = input.required<readonly ChartLine[]>();
  readonly xTitle = input('');
  readonly yTitle = input('');
  readonly height = input(150);
  /** Where the measured range ends on the x axis; what lies beyond is shaded. Null for no mark. */
  readonly measuredTo = input<number | null>(null);
  readonly xMost = input<number | null>(null);
  /** Anything whose change means that colours changed. */
  readonly theme = input('');

  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly plotly = signal<typeof Plotly | null>(null);
  /** When it was last drawn, or something else asked for. */
  private drawnAt = -REST_MS;

  constructor() {
    void import('plotly.js-basic-dist-min').then((module) => this.plotly.set(module.default));
    effect((onCleanup) => {
      const plotly = this.plotly();
      const [data, layout] = this.figure();
      if (!plotly) return;
      const draw = (): void => {
        this.drawnAt = performance.now();
        void plotly.react(this.host, data, layout, { staticPlot: false, displayModeBar: false, responsive: true, scrollZoom: false });
      };
      // drawing takes longer than a frame: while something is dragged the chart follows when the hand rests
      if (performance.now() - this.drawnAt > REST_MS) {
        draw();
        return;
      }
      this.drawnAt = performance.now();
      const timer = setTimeout(draw, REST_MS);
      onCleanup(() => clearTimeout(timer));
    });
    effect((onCleanup) => {
      const plotly = this.plotly();
      onCleanup(() => plotly?.purge(this.host));
    });
  }

  private figure(): readonly [readonly object[], object] {
    this.theme();
    const style = getComputedStyle(this.host);
    const of = (name: string): string => style.getPropertyValue(name).trim();
    const axis = (title: string): object => ({
      title: { text: title, standoff: 6, font: { size: 11 } },
      color: of('--ink-soft'),
      gridcolor: of('--line'),
      zerolinecolor: of('--line-strong'),
      tickfont: { size: 11 },
      fixedrange: true,
      automargin: true,
    });
    const to = this.measuredTo();
    const most = this.xMost();
    const beyond = to !== null && most !== null && to < most;
    const bars = this.kind() === 'bars';
    const data = this.lines().map((line, i) => ({
      ...(bars
        ? {
            type: 'bar',
            orientation: 'h',
            marker: { color: of(INKS[(2 - i) % INKS.length] as string), pattern: { shape: i === 0 ? '/' : '', bgcolor: of('--paper') } },
          }
        : { type: 'scatter', mode: 'lines' }),
      name: line.name,
      x: bars ? line.y : line.x,
      y: bars ? line.x : line.y,
      hovertemplate: bars
        ? `%{y}, %{fullData.name}: %{x:.2f}${this.unit()}<extra></extra>`
        : `%{y:.2f}${this.unit()} at %{x:.0f} %<extra>%{fullData.name}</extra>`,
      line: { color: of(INKS[i % INKS.length] as string), width: 2, dash: line.dashed ? 'dot' : DASHES[i % DASHES.length] },
    }));
    const layout = {
      height: this.height(),
      margin: { l: 42, r: 8, t: 6, b: 32 },
      paper_bgcolor: 'transparent',
      plot_bgcolor: 'transparent',
      font: { family: style.fontFamily, color: of('--ink') },
      showlegend: this.lines().length > 1,
      legend: { orientation: 'h', ...(bars ? { y: 1.02, yanchor: 'bottom' } : { y: -0.22 }), font: { size: 12 } },
      barmode: 'group',
      xaxis: bars ? axis(this.yTitle()) : { ...axis(this.xTitle()), range: [0, most ?? undefined], rangemode: 'tozero' },
      yaxis: bars ? { ...axis(''), autorange: 'reversed' } : axis(this.yTitle()),
      shapes: beyond
        ? [
            {
              type: 'rect',
              xref: 'x',
              yref: 'paper',
              x0: to,
              x1: most,
              y0: 0,
              y1: 1,
              fillcolor: of('--ink'),
              opacity: 0.08,
              line: { width: 0 },
            },
          ]
        : [],
    };
    return [data, layout];
  }
}
