/** A list that comes a page at a time: read anew as far as it is shown, read on, and searched as somebody types. */
import { wordsOf } from '../api/client';

const TYPED_MS = 150;
type Page<T> = { total: number; rows: T[] };

export class Paged<T> {
  rows = $state.raw<T[] | null>(null);
  total = $state(0);
  trouble = $state('');
  private asked = 0;
  private wanted = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly page: (start: number) => Promise<Page<T>>) {}

  /** Is there more than is shown? */
  get more() {
    return !!this.rows && this.rows.length < this.total;
  }

  /** What is shown, read anew; the newest that was asked for counts. */
  load() {
    return this.read([], this.wanted);
  }

  /** A page on: whoever reads the list anew before it came reads as far. */
  next() {
    const shown = this.rows ?? [];
    this.wanted = shown.length + 1;
    return this.read(shown, this.wanted);
  }

  /** From the start: something else is looked for. */
  fresh() {
    this.wanted = 0;
    return this.read([], 0);
  }

  /** The same, once the hand rests. */
  later() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.fresh(), TYPED_MS);
  }

  private async read(before: T[], upto: number) {
    const mine = ++this.asked;
    let found = before;
    try {
      do {
        const page = await this.page(found.length);
        if (mine !== this.asked) return;
        this.total = page.total;
        found = [...found, ...page.rows];
        if (!page.rows.length) break;
      } while (found.length < Math.min(upto, this.total));
      this.rows = found;
      this.wanted = found.length;
      this.trouble = '';
    } catch (bad) {
      if (mine === this.asked) this.trouble = wordsOf(bad);
    }
  }
}
