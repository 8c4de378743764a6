import { rulerOver } from './ruler.ts';

const day = 86_400_000;
const now = new Date('2026-11-10T12:00:00').getTime();

test('a ruler has now on it, keeps the order of moments, and holds what is far away at its ends', () => {
  const moments = [now - 400 * day, now - 3 * day, now + 2 * day, now + 300 * day];
  const ruler = rulerOver(moments, now, 400);
  const places = [...moments.slice(0, 2), now, ...moments.slice(2)].map(ruler.x);
  expect(places).toEqual([...places].sort((a, b) => a - b));
  expect([places[0], places.at(-1)]).toEqual([8, 392]);
  expect(ruler.now).toBe(places[2]);
});

test('with nothing on it, it still shows a week back and some days ahead; its ticks are whole days within its width', () => {
  const ruler = rulerOver([], now, 400);
  expect(ruler.now).toBeGreaterThan(100);
  expect(ruler.now).toBeLessThan(392);
  expect(ruler.ticks.length).toBeGreaterThan(3);
  for (const { x } of ruler.ticks) {
    expect(x).toBeGreaterThanOrEqual(8);
    expect(x).toBeLessThanOrEqual(392);
  }
  expect(ruler.ticks.map(({ label }) => label)).toEqual([
    '3 Nov',
    '5 Nov',
    '7 Nov',
    '9 Nov',
    '11 Nov',
    '13 Nov',
    '15 Nov',
  ]);
});
