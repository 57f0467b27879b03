/**
 * An open job: the document as typed, the last exact scene, and how both stay in step with the server.
 *
 * Every change is built at once (the newest request wins) and saved a moment later. What was typed stays, whether
 * it can be built or not.
 */
import type { Fault, JobDocument, Placement, Schemas } from '../api/client';
import { Task } from '../api/work.svelte';
import { fetchJob, jobAhead } from './ahead';
import { Building } from './building.svelte';
import { OnCutterState } from '../cutting/oncutter.svelte';
import { Cuts } from './cuts.svelte';
import { Hand } from './hand';
import { placed, type Element } from './elements';
import { Pile } from './pile.svelte';
import { SetAside } from './aside';
import { at, put } from './paths';
import { PictureWork } from './picture.svelte';
import { PieceWork } from './pieces.svelte';
import { SetsByHand } from './sets.svelte';
import { Saving } from './saving.svelte';
import { STEPS, type Step } from './steps';
import { Tracing } from './tracing.svelte';

type JobOut = Schemas['JobOut'];

export class JobState {
  document = $state.raw<JobDocument | null>(null);
  step = $state<Step>('measure');
  faults = $state.raw<Fault[]>([]);
  focused = $state('');
  shown = $state('');
  /** Which of the placed drawings the hand has chosen. */
  selected = $state(0);
  /** Are the spaces between letters in the hand? */
  spacing = $state(false);
  /** Is the photograph shown in place of the drawing? */
  photo = $state(false);

  readonly hand = new Hand();
  readonly pile = new Pile();
  readonly pieces = new PieceWork(this);
  readonly picture = new PictureWork(this);
  readonly tracing = new Tracing(this);
  /** Sets of a batch laid closer. */
  readonly laying = new Tracing(this, 'lay');
  /** Sets laid on their film by hand. */
  readonly sets = new SetsByHand(this);
  /** Its files, and of which revision they were made. */
  readonly files = new Task();
  filesOf = $state(0);
  readonly cuts: Cuts;
  /** A load of it on a machine. */
  readonly on: OnCutterState;
  /** What Sheets draws: the best lay while one is looked for, a load, the film it is cut out of, or work in panels. */
  sheetsShow = $state<'best' | 'load' | 'film' | 'panels'>('best');
  /** Is the picture that was traced seen through its tracing? */
  seenThrough = $state(false);
  readonly building: Building;
  readonly saving: Saving;
  private edits = 0;
  /** What the core refused of what was typed, and the last document it did not refuse anything of. */
  private readonly aside = new SetAside();
  private accepted: JobDocument | null = null;
  /** The document as it was read, as long as nobody went on since. */
  private asRead = $state.raw<JobDocument | null>(null);
  /** Is what is called wrong still to be read anew? */
  private unread = false;
  /** What the hand holds is built as it lies, and only becomes a change when it lets go. */
  private held: JobDocument | null = null;

  constructor(readonly id: number) {
    this.cuts = new Cuts(id);
    this.on = new OnCutterState(id);
    this.building = new Building(id, {
      wanted: () => ({
        document: this.readable(this.held ?? this.document),
        step: this.step,
        edits: this.edits,
        held: !!this.held,
      }),
      normalised: (document, edits) => {
        if (edits === this.edits && !this.held) {
          this.document = this.aside.asTyped(document);
          this.asRead = document;
        }
        this.accepted = document;
        this.read();
      },
      misread: (faults, sent) => this.misread(faults, sent),
      refused: (faults) => (this.faults = [...this.aside.faults, ...faults]),
      quiet: () => this.hand.rest(),
    });
    this.saving = new Saving(id, {
      wanted: () => ({ document: this.readable(this.document), typed: this.document, edits: this.edits }),
      misread: (faults, sent) => this.misread(faults, sent),
      reached: () => {
        this.read();
        if (this.building.missed) void this.building.ask();
      },
    });
  }

  get scene() {
    return this.building.scene;
  }
  /** What is judged of each step. */
  get judged() {
    return this.building.judged;
  }
  get working() {
    return this.building.working;
  }
  get save() {
    return this.saving.state;
  }
  /** The steps at which something has to be put right before it is made. */
  get red(): Step[] {
    return STEPS.filter((step) => this.judged.levels[step] === 'stop');
  }
  get stale() {
    return this.saving.stale;
  }
  /** Does the scene show the document as it is, though not all of it may be there yet? */
  get drawn() {
    return !this.held && !!this.asRead && this.scene?.document === this.asRead;
  }
  /** Does it, and is all of it there? */
  get exact() {
    return !this.working && this.drawn && !!this.scene?.whole;
  }

  async open(step: Step) {
    this.step = step;
    const job = await jobAhead(this.id);
    this.take(job);
    const kept = this.saving.kept();
    if (kept) {
      this.document = kept.document;
      this.edits++;
      if (kept.revision === job.revision) this.saving.changed();
      else this.saving.stale = job.revision;
    }
    await this.build();
  }

  private take(job: JobOut) {
    this.saving.taken(job);
    this.aside.clear();
    this.document = this.accepted = job.document;
    this.asRead = null;
  }

  private readable(typed: JobDocument | null): JobDocument | null {
    return typed && this.aside.readable(typed);
  }

  goTo(step: Step) {
    if (this.step === step) return;
    this.step = step;
    this.shown = '';
    void this.build();
  }

  value(path: string): unknown {
    return at(this.document, path);
  }

  fault(path: string): Fault | undefined {
    return this.faults.find((f) => f.field === path);
  }

  /** What was refused is put aside, if it can be: then the rest is to be asked for again. */
  private misread(faults: Fault[], sent: JobDocument): boolean {
    const again = !!this.document && !this.held && this.aside.refuse(faults, sent, this.document, this.accepted);
    this.faults = again ? this.aside.faults : faults;
    this.unread = true;
    return again;
  }

  /** What is typed now was read: what was wrong is not any more, however long the building takes. */
  private read() {
    if (this.unread) this.faults = this.aside.faults;
    this.unread = false;
  }

  /** A part of the blank the core offers, by where it goes. */
  offer<T>(name: string): T | undefined {
    return this.scene?.measure.offers[name] as T | undefined;
  }

  /** A drawing that was taken in joins those there are now, where the core says it goes first. */
  addDrawing(added: Schemas['DrawingOut']) {
    this.addElement({
      source: {
        kind: 'file',
        file: added.file,
        shades: 1,
        see_through: 'shadows_out',
        fine: 'aside',
        colours: 6,
        palette: [],
        speckle_px: 4,
      },
      placements: [added.placement],
    });
  }

  addElement(element: Pick<Element, 'source' | 'placements'> & { knocks_out?: boolean }) {
    const elements = this.document?.elements ?? [];
    this.selected = elements.reduce((n, e) => n + (e.placements?.length ?? 1), 0);
    this.set('elements', [...elements, element]);
  }

  /** A film laid so many places higher in the pile, or lower. */
  raise(from: number, by: number) {
    const layers = this.scene?.layers;
    const least = layers?.under ?? 0;
    const order = (layers?.layers ?? []).map((l) => l.colour);
    const to = Math.max(least, Math.min(order.length - 1, from + by));
    if (from < least || from >= order.length || to === from) return;
    const [colour] = order.splice(from, 1);
    order.splice(to, 0, colour!);
    let next = put(this.document!, 'layers.order', order.slice(least));
    // What was said of it and another no longer holds.
    const meetings = this.document!.layers?.meetings ?? [];
    if (meetings.some((m) => m.under && m.colours.includes(colour!))) {
      const freed = meetings.map((m) => (m.colours.includes(colour!) ? { ...m, under: null } : m));
      next = put(next, 'layers.meetings', freed);
    }
    this.change(next);
  }

  /** Some fields of a placement set: a width becomes the size of what has one of its own. */
  place(path: string, values: Partial<Placement>) {
    if (this.document) this.change(placed(this.document, this.scene?.placed ?? [], path, values));
  }

  /** The placed drawing that the hand has chosen. */
  get chosen() {
    const placed = this.scene?.placed ?? [];
    return placed[Math.min(this.selected, placed.length - 1)];
  }

  get params() {
    return { path: { job_id: this.id } };
  }

  /** The placement the hand has chosen, of the document as it is, for the core to work on. */
  placementIn() {
    const [, element = '0', , placement = '0'] = (this.chosen?.path ?? '').split('.');
    return { document: this.document as never, element: Number(element), placement: Number(placement) };
  }

  set(path: string, value: unknown) {
    if (!this.document) return;
    this.change(put(this.document, path, value));
  }

  /** Set some fields of what lies at a path. */
  merge(path: string, values: Record<string, unknown>) {
    this.set(path, { ...(this.value(path) as object), ...values });
  }

  /** Set a path to what the core offers there for the document as it is, once that is known; nothing where it offers
   * nothing. */
  async setOffered<T>(path: string, name: string, make: (offer: T) => unknown = (offer) => offer) {
    if (!this.exact) await this.build();
    const offer = this.offer<T>(name);
    if (offer !== undefined) this.set(path, make(offer));
  }

  change(document: JobDocument) {
    this.drop();
    if (this.aside.changed(document)) this.unread = true;
    this.document = document;
    this.asRead = null;
    this.edits++;
    this.saving.changed();
    void this.build();
  }

  /** Build what the hand holds where it is now; nothing is saved until it lets go. */
  hold(document: JobDocument) {
    this.held = document;
    void this.build();
  }

  /** The hand let go without having moved anything. */
  drop() {
    this.held = null;
    this.building.overtake();
  }

  build() {
    return this.building.ask();
  }

  /** The page is left. */
  close() {
    this.building.close();
  }

  /** Save now, after any save that is under way. */
  store() {
    return this.saving.now();
  }

  async takeNewer() {
    this.saving.forget();
    this.edits++;
    this.take(await fetchJob(this.id));
    await this.build();
  }

  async history(which: 'undo' | 'redo') {
    // What was refused was done last: that is taken back first.
    if (which === 'undo' && this.document && this.aside.faults.length) {
      this.change(this.aside.readable(this.document));
      return true;
    }
    return this.travel(() => this.saving.step(which));
  }

  /** Bring a revision back; answers whether it came. */
  restore(to: number) {
    return this.travel(() => this.saving.restore(to));
  }

  private async travel(how: () => Promise<JobOut | null>): Promise<boolean> {
    await this.store();
    const edits = this.edits;
    const job = await how();
    if (!job) return false;
    if (edits !== this.edits) {
      // The hand went on while the step was taken: what it did stands, on top of where the step led.
      this.saving.revision = job.revision;
      this.saving.changed();
      return true;
    }
    this.take(job);
    this.edits++;
    await this.build();
    return true;
  }
}
