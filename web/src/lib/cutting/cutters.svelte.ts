/** The workshop's machines and blades, and the log of cuts. */
import { Asking } from '../api/asking.svelte';
import { client, takeAs, type Schemas } from '../api/client';
import { session } from '../state/session.svelte';
import { tables } from '../state/tables.svelte';
import { fieldText } from '../units';

type Out = Schemas['CuttersOut'];
export type Machine = Out['cutters'][number];
export type Entry = Schemas['CutEntry'];
type Typed = Record<string, unknown>;

export const LENGTHS = ['width_mm', 'length_mm', 'safe_width_mm', 'safe_length_mm', 'blade_offset_mm'] as const;
export const NUMBERS = ['speed_mm_s', 'acceleration_mm_s2', 'steps_per_mm', 'most_force_gf'] as const;

/** A machine as its fields show it, all as text. */
export type MachineForm = Record<string, string> & { id: string };

export function formOf(m: Machine): MachineForm {
  const form: MachineForm = { id: m.id, name: m.name, medium: m.medium, origin: m.origin ?? 'lower_left' };
  for (const key of LENGTHS) form[key] = fieldText(m[key] ?? 0, session.style);
  for (const key of NUMBERS) form[key] = m[key] === null || m[key] === undefined ? '' : String(m[key]);
  form.x_along_feed = m.x_along_feed ? 'along' : 'across';
  form.scale_name = m.scale?.name ?? '';
  form.scale_least = m.scale ? String(m.scale.least) : '';
  form.scale_most = m.scale ? String(m.scale.most) : '';
  form.connection = m.simulated ? 'simulated' : m.address ? 'network' : 'files';
  form.address = m.address ?? '';
  return form;
}

/** A machine as it is sent: what was not shown stays, lengths as typed. */
function typed(form: MachineForm, was: Machine | undefined): Typed {
  const out: Typed = { ...was, id: form.id, name: form.name, medium: form.medium, origin: form.origin };
  for (const key of LENGTHS) out[key] = session.style === 'mm' ? form[key] : `${form[key]} in`;
  for (const key of NUMBERS) out[key] = form[key] === '' ? (key === 'most_force_gf' ? null : '') : form[key];
  out.x_along_feed = form.x_along_feed === 'along';
  out.scale = form.scale_name
    ? { name: form.scale_name, least: form.scale_least || '', most: form.scale_most || '' }
    : null;
  out.simulated = form.connection === 'simulated';
  out.address = form.connection === 'network' ? form.address : '';
  return out;
}

class CuttersState extends Asking {
  now = $state.raw<Out | null>(null);
  log = $state.raw<Entry[]>([]);

  async load() {
    await this.ask(async () => {
      [this.now, this.log] = await Promise.all([
        takeAs<Out>(client.GET('/api/cutters')),
        takeAs<Entry[]>(client.GET('/api/cutters/log')),
      ]);
    });
  }
  /** Write one machine down, anew or otherwise; null takes it away. */
  machine(id: string, form: MachineForm | null) {
    const now = this.now!;
    const is = now.cutters.some((c) => c.id === id);
    const rest = now.cutters.flatMap((c): Typed[] => (c.id !== id ? [c] : form ? [typed(form, c)] : []));
    return this.put(!is && form ? [...rest, typed(form, undefined)] : rest, now.blades);
  }
  blades(blades: Out['blades']) {
    return this.put(this.now!.cutters, blades);
  }
  fault(field: string) {
    return this.faults.find((f) => f.field.replace(/^cutters\.\d+\.?/, '') === field);
  }
  /** Whether it was taken. */
  private async put(cutters: Typed[], blades: Typed[]): Promise<boolean> {
    const found = await this.ask(() => takeAs<Out>(client.PUT('/api/cutters', { body: { cutters, blades } })));
    if (!found) return false;
    this.now = found;
    tables.cutters = found.cutters;
    return true;
  }
}
export const cutters = new CuttersState();
