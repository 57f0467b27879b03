/** Who is signed in, and how their workshop writes lengths. */
import { client, setCsrf, take, type LengthStyle, type Session } from '../api/client';

class SessionState {
  current = $state<Session | null>(null);

  get style(): LengthStyle {
    return this.current?.workshop?.length_style ?? 'mm';
  }

  private keep(session: Session) {
    setCsrf(session.csrf);
    this.current = session;
  }
  async load() {
    this.keep(await take(client.GET('/api/session')));
  }
  async signIn(username: string, password: string) {
    this.keep(await take(client.POST('/api/session', { body: { username, password } })));
  }
  async enterDemo() {
    this.keep(await take(client.POST('/api/session/demo')));
  }
  async signOut() {
    await take(client.DELETE('/api/session'));
    await this.load();
  }
  async setStyle(length_style: LengthStyle) {
    const workshop = await take(client.PATCH('/api/workshop', { body: { length_style } }));
    if (this.current) this.current.workshop = workshop;
  }
}

export const session = new SessionState();
