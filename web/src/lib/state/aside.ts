/** Values the core refused: they stay in their fields, while what was there before is built and saved in their place. */
import type { Fault, JobDocument } from '../api/client';
import { at, put } from './paths';

type Refused = { typed: unknown; good: unknown; fault: Fault };

export class SetAside {
  private refused = new Map<string, Refused>();

  get faults(): Fault[] {
    return [...this.refused.values()].map((r) => r.fault);
  }

  /** Put aside what was refused of a document as it was sent; `accepted` is the last one that was not. False where
   * sending it again would change nothing. */
  refuse(faults: Fault[], sent: JobDocument, typed: JobDocument, accepted: JobDocument | null): boolean {
    let some = false;
    for (const fault of faults) {
      if (!accepted || !fault.field) continue;
      const before = this.refused.get(fault.field);
      if (before) {
        // Of two that were on their way the other was answered first.
        some ||= at(sent, fault.field) === before.typed;
        continue;
      }
      const [now, good] = [at(typed, fault.field), at(accepted, fault.field)];
      const above = fault.field.split('.').slice(0, -1).join('.');
      if (now === good || (above && at(accepted, above) === undefined)) continue;
      this.refused.set(fault.field, { typed: now, good, fault });
      some = true;
    }
    return some;
  }

  /** What was changed since is tried again; was there something? */
  changed(typed: JobDocument): boolean {
    const again = [...this.refused].filter(([path, r]) => at(typed, path) !== r.typed);
    for (const [path] of again) this.refused.delete(path);
    return again.length > 0;
  }

  /** The document as it can be read. */
  readable(typed: JobDocument): JobDocument {
    let out = typed;
    for (const [path, r] of this.refused) out = put(out, path, r.good);
    return out;
  }

  /** A document that was read, with what was typed in its fields. */
  asTyped(read: JobDocument): JobDocument {
    let out = read;
    for (const [path, r] of this.refused) out = put(out, path, r.typed);
    return out;
  }

  clear() {
    this.refused.clear();
  }
}
