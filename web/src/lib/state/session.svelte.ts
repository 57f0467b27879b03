/** Who is signed in, in which workshop and as what, and how it writes lengths. */
import { client, setCsrf, take, type LengthStyle, type Session } from '../api/client';

class SessionState {
  current = $state<Session | null>(null);
  /** Done when no change of units is on its way: what is typed is read in the units that were chosen before it. */
  styled: Promise<void> = Promise.resolve();

  get style(): LengthStyle {
    return this.current?.workshop?.length_style ?? 'mm';
  }
  /** May whoever is here change jobs? */
  get makes() {
    return this.current?.role !== 'viewer';
  }
  /** May they say who works here? */
  get owns() {
    return this.current?.role === 'owner';
  }

  keep(session: Session) {
    setCsrf(session.csrf);
    this.current = session;
  }
  async load() {
    this.keep(await take(client.GET('/api/session')));
  }
  async signIn(username: string, password: string, workshop: string) {
    this.keep(await take(client.POST('/api/session', { body: { username, password, workshop } })));
  }
  async enterDemo() {
    this.keep(await take(client.POST('/api/session/demo')));
  }
  async choose(workshop: number) {
    this.keep(await take(client.PUT('/api/session/workshop', { body: { workshop } })));
  }
  async changePassword(old: string, fresh: string) {
    this.keep(await take(client.PUT('/api/account/password', { body: { old, new: fresh } })));
  }
  async signOut() {
    await take(client.DELETE('/api/session'));
    await this.load();
  }
  async signOutEverywhere() {
    await take(client.DELETE('/api/account/sessions'));
    await this.load();
  }
  /** One change of units after another: the last one chosen is the one that stays. */
  setStyle(length_style: LengthStyle): Promise<void> {
    const chosen = this.styled.then(async () => {
      const workshop = await take(client.PATCH('/api/workshop', { body: { length_style } }));
      if (this.current) this.current.workshop = workshop;
    });
    this.styled = chosen.catch(() => undefined);
    return chosen;
  }
}

export const session = new SessionState();
