import { TestServer } from './server.ts';

/**
 * The server of a file of tests: started before them, stopped after, when nothing may have been logged as an
 * error, and every refusal have been one that the contract names with its operation.
 */
export function testServer({ connections }: { connections?: number | undefined } = {}): TestServer {
  const late: { server: TestServer | null } = { server: null };
  const started = (): TestServer => {
    if (!late.server) throw new Error('the server of these tests starts before the first of them, not yet');
    return late.server;
  };
  beforeAll(async () => {
    late.server = await TestServer.start({ connections });
  });
  afterAll(async () => {
    await started().stop();
    expect(started().logged).toEqual([]);
  });
  return new Proxy({} as TestServer, {
    get: (_, name): unknown => Reflect.get(started(), name),
    set: (_, name, value) => Reflect.set(started(), name, value),
  });
}
