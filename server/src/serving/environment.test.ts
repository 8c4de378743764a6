import { NotStarted } from '../notStarted.ts';
import { trusted } from './environment.ts';

test.each([
  [undefined, {}],
  ['', {}],
  ['1', { trustProxy: 1 }],
  ['10.0.0.1, 10.1.0.0/16', { trustProxy: '10.0.0.1, 10.1.0.0/16' }],
  ['loopback', { trustProxy: 'loopback' }],
])('proxies told as %j are trusted', (given, options) => {
  expect(trusted(given)).toEqual(options);
});

test.each(['true', 'everybody', '11', '0.0.0.0/0', '::/0', '10.0.0.1/33', 'proxy.example'])(
  'proxies told as %j are refused in one sentence',
  (given) => {
    expect(() => trusted(given)).toThrow(NotStarted);
    expect(() => trusted(given)).toThrow(`POLYCHRON_TRUST_PROXY is ${given};`);
  },
);
