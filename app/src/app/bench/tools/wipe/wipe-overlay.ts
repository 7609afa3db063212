import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { TOOL_CONTEXT } from '../tool-context';

/** The line of the wipe, or the middle between the two halves, with the words for both sides. */
@Component({
  selector: 'ap-wipe-overlay',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @switch (tool.compare()) {
      @case ('wipe') {
        <div class="wipe" [style.left.%]="tool.wipe() * 100"><span>original</span><i></i><span>result</span></div>
      }
      @case ('side') {
        <div class="halves"><span>original</span><span>result</span></div>
      }
    }
  `,
  styles: `
    .wipe {
      position: absolute;
      top: 0;
      bottom: 0;
      width: 0;
      border-left: 2px solid #fff;
      box-shadow: 0 0 0 1px rgb(0 0 0 / 60%);
      pointer-events: none;
      i {
        position: absolute;
        top: 50%;
        left: -13px;
        width: 24px;
        height: 24px;
        border: 2px solid #fff;
        border-radius: 50%;
        background: rgb(20 24 27 / 55%);
      }
      span {
        position: absolute;
        top: 12px;
        right: 10px;
      }
      span:last-child {
        right: auto;
        left: 10px;
      }
    }
    span {
      padding: 2px 9px;
      border-radius: 4px;
      background: rgb(20 24 27 / 82%);
      color: #fff;
      font-size: 12.5px;
      white-space: nowrap;
    }
    .halves {
      position: absolute;
      inset: 0;
      display: grid;
      grid-template-columns: 1fr 1fr;
      justify-items: center;
      align-items: start;
      padding-top: 12px;
      pointer-events: none;
      background: linear-gradient(#fff, #fff) center / 2px 100% no-repeat;
    }
  `,
})
export class WipeOverlay {
  protected readonly tool = inject(TOOL_CONTEXT);
}
