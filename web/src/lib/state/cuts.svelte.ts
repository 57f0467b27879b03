/** The loads of a job that were cut: marked, and taken back. */
import { Asking } from '../api/asking.svelte';
import { client, take, takeAs, type Schemas } from '../api/client';

export type CutLoad = Schemas['CutLoadOut'];
export type Offer = Schemas['OfferView'];

export class Cuts extends Asking {
  done = $state.raw<CutLoad[]>([]);
  offer = $state.raw<Offer | null>(null);
  /** The load that the offer is for. */
  about = $state('');

  constructor(private readonly job: number) {
    super();
  }

  private get path() {
    return { params: { path: { job_id: this.job } } };
  }
  /** How often a load was cut. */
  times(load: string) {
    return this.done.filter((c) => c.load === load).length;
  }
  /** Those of loads the job no longer has. */
  before(loads: string[]) {
    return this.done.filter((c) => !loads.includes(c.load));
  }
  load() {
    return this.ask(() => this.lookUp());
  }
  private async lookUp() {
    this.done = await takeAs<CutLoad[]>(client.GET('/api/jobs/{job_id}/cuts', this.path));
  }
  /** Ask what marking a load takes off the stock. */
  look(load: string) {
    this.about = load;
    this.offer = null;
    return this.ask(async () => {
      this.offer = await takeAs<Offer>(client.POST('/api/jobs/{job_id}/cuts/offer', { ...this.path, body: { load } }));
    });
  }
  mark(load: string, keep: boolean[]) {
    return this.ask(async () => {
      await take(client.POST('/api/jobs/{job_id}/cuts', { ...this.path, body: { load, keep } }));
      this.offer = null;
      await this.lookUp();
    });
  }
  takeBack(cut: number) {
    const params = { path: { job_id: this.job, cut_id: cut } };
    return this.ask(async () => {
      await take(client.DELETE('/api/jobs/{job_id}/cuts/{cut_id}', { params }));
      await this.lookUp();
    });
  }
}
