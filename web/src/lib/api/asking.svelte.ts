/** Something asked of the server by hand: whether it is under way, what went wrong with it, and at which fields. */
import { ApiError, wordsOf, type Fault } from './client';

export class Asking {
  busy = $state(false);
  trouble = $state('');
  /** What is wrong field by field; the rest is in `trouble`. */
  faults = $state.raw<Fault[]>([]);

  /** Ask; what comes of it, or undefined where it was refused, which is told then. */
  protected async ask<T>(what: () => Promise<T>): Promise<T | undefined> {
    this.busy = true;
    this.clear();
    try {
      return await what();
    } catch (bad) {
      this.faults = bad instanceof ApiError ? bad.faults.filter((f) => f.field) : [];
      this.trouble = wordsOf(bad);
      return undefined;
    } finally {
      this.busy = false;
    }
  }
  clear() {
    this.trouble = '';
    this.faults = [];
  }
}
