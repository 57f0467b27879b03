/** Pictures traced finely and sets laid closer, each as a task: begun by itself once the hand rests, and told where a newer wish overtakes it. */
import { startWork, Task } from '../api/work.svelte';
import type { JobState } from './job.svelte';

const BEGIN_AFTER_MS = 700;
const KEPT_AFTER_MS = 1500;

export class Tracing {
  readonly task = new Task();
  private key = '';
  /** What was stopped by hand is not begun again by itself. */
  private stopped = $state('');
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly job: JobState,
    private readonly kind: 'trace' | 'lay' = 'trace',
  ) {}

  /** What of its kind the job waits for, if anything. */
  get wanted(): string {
    return this.job.scene?.waiting.find((w) => w.kind === this.kind)?.key ?? '';
  }
  /** Does it wait for one that was stopped? */
  get left(): boolean {
    return !this.task.busy && !!this.wanted && this.wanted === this.stopped;
  }

  /** Look whether something is to be traced: after every scene. */
  readonly look = () => {
    const { wanted } = this;
    clearTimeout(this.timer);
    if (this.task.busy && wanted !== this.key) void this.task.stop();
    if (!wanted || wanted === this.stopped || !this.job.exact) return;
    this.timer = setTimeout(() => void this.begin(), BEGIN_AFTER_MS);
  };

  async begin() {
    const { wanted, job, task, kind } = this;
    if (!wanted || task.busy) return;
    this.key = wanted;
    this.stopped = '';
    const done = await task.run(() => startWork({ kind, job: job.id, key: wanted, document: job.document as never }));
    // A search that was stopped may have found something, and kept it.
    if (!done && kind === 'lay') await new Promise((r) => setTimeout(r, KEPT_AFTER_MS));
    if (done || kind === 'lay') await job.build();
    // Stopped by hand, failed, or made and not kept: it is not begun again by itself.
    if (this.wanted === wanted) this.stopped = wanted;
    this.look();
  }
}
