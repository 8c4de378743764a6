import pino from 'pino';
import {
  addPerson,
  type Caller,
  closeContext,
  type Context,
  createApp,
  makeContext,
  makeToken,
  migrate,
} from '@polychron/server';

/** The product over a database of a benchmark's own, which `scripts/bench` gives it. */
export class Place {
  private readonly closing: (() => void)[] = [];
  private readonly tokens = new Map<string, string>();

  private constructor(
    readonly databaseUrl: string,
    readonly context: Context,
  ) {}

  /** @param name the benchmark, for who runs it without a database */
  static async open(name: string): Promise<Place> {
    const url = process.env['POLYCHRON_DATABASE_URL'];
    if (!url) throw new Error(`POLYCHRON_DATABASE_URL is not set; run "npm run bench -- ${name}".`);
    const log = pino({ level: 'fatal' });
    const context = makeContext({ databaseUrl: url, clock: () => new Date(), log, stagingFolder: '/tmp' });
    await migrate(context.db);
    return new Place(url, context);
  }

  /** A person who can ask over HTTP. */
  async person(account: string, systemAdministrator = false): Promise<Caller> {
    const one = { account, name: account, systemAdministrator };
    const caller = { ...one, id: await addPerson(this.context, one) };
    this.tokens.set(account, (await makeToken({ context: this.context, caller }, { name: 'bench' })).secret);
    return caller;
  }

  /** Lets somebody who is there ask over HTTP. */
  async signIn(account: string): Promise<void> {
    const found = await this.context.models.Person.findOne({ where: { account }, rejectOnEmpty: true });
    const { id, name, systemAdministrator } = found;
    const caller = { id, account, name, systemAdministrator };
    this.tokens.set(account, (await makeToken({ context: this.context, caller }, { name: 'bench' })).secret);
  }

  /** What a person's requests carry. */
  headersOf(account: string): Record<string, string> {
    return { Authorization: `Bearer ${this.tokens.get(account)}` };
  }

  /** Serves the product; answers the address of its HTTP interface. */
  async serve(options: { evenly?: boolean } = {}): Promise<string> {
    const server = createApp(this.context, options).listen(0, '127.0.0.1');
    await new Promise((resolve) => {
      server.once('listening', resolve);
    });
    this.closing.push(() => {
      server.close();
      server.closeAllConnections();
    });
    const address = server.address();
    if (address === null || typeof address === 'string') throw new Error('the server has no port');
    return `http://127.0.0.1:${address.port}/api/v1`;
  }

  async close(): Promise<void> {
    for (const close of this.closing) close();
    await closeContext(this.context);
  }
}
