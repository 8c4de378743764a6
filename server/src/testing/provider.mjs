// A provider of identities on loopback, for tests: whoever types a name is that person. Their groups are
// told by the process that started it. Usage: node provider.mjs PORT RETURN_ADDRESS
import Provider from 'oidc-provider';

const [port, returnAddress] = process.argv.slice(2);
const groupsOf = new Map();
process.on('message', ({ name, groups }) => {
  groupsOf.set(name, groups);
  process.send({ told: name });
});
const provider = new Provider(`http://127.0.0.1:${port}`, {
  clients: [{ client_id: 'polychron', client_secret: 'for the tests', redirect_uris: [returnAddress] }],
  claims: {
    openid: ['sub'],
    profile: ['name', 'preferred_username'],
    email: ['email', 'email_verified'],
    groups: ['groups'],
  },
  scopes: ['openid', 'profile', 'email', 'groups'],
  findAccount: (_, name) => ({
    accountId: name,
    claims: () => ({
      sub: name,
      name: `${name[0].toUpperCase()}. ${name.slice(1)}`,
      preferred_username: name,
      email: `${name}@example.test`,
      email_verified: false,
      ...(groupsOf.get(name) ? { groups: groupsOf.get(name) } : {}),
    }),
  }),
});
provider.on('server_error', (_, error) => process.stderr.write(`${error.stack}\n`));
provider.listen(Number(port), '127.0.0.1', () => process.stdout.write('ready\n'));
