import { Injectable, type OnDestroy } from '@angular/core';
import { Subject } from 'rxjs';

/** What tabs tell each other: that something on the shelf is newer than they may have it, and who may write a job. */
export type TabMessage =
  | { readonly kind: 'history'; readonly jobId: string; readonly pictureId: string }
  | { readonly kind: 'job' | 'job-removed'; readonly jobId: string }
  | { readonly kind: 'settings' | 'profiles' }
  /** Somebody wants to write a job, and whoever does is to finish; that one is at it; it has finished. Each by the id of its question. */
  | { readonly kind: 'hand-over' | 'finishing' | 'handed'; readonly jobId: string; readonly ask: string };

/** Tabs of this browser, heard and told. */
@Injectable({ providedIn: 'root' })
export class TabChannel implements OnDestroy {
  private readonly channel = new BroadcastChannel('able-plumb');
  readonly heard = new Subject<TabMessage>();

  constructor() {
    this.channel.onmessage = ({ data }: MessageEvent<TabMessage>): void => this.heard.next(data);
  }

  tell(message: TabMessage): void {
    this.channel.postMessage(message);
  }

  ngOnDestroy(): void {
    this.channel.close();
  }
}
