import { timeLimit } from './timeLimit.ts';

beforeEach(() => {
  jest.useFakeTimers({ now: new Date('2026-03-02T09:00:00Z') });
});
afterEach(() => {
  jest.useRealTimers();
});

test('what a thread takes to start is not counted; what it does is, from when it began', () => {
  const { signal, begun } = timeLimit(1500);
  jest.advanceTimersByTime(20_000);
  expect(signal.aborted).toBe(false);
  begun[0] = Date.now();
  jest.advanceTimersByTime(1400);
  expect(signal.aborted).toBe(false);
  jest.advanceTimersByTime(1600);
  expect(signal.aborted).toBe(true);
  expect(signal.reason).toMatchObject({ name: 'TimeoutError' });
});

test('a thread that never starts is not waited for without end', () => {
  const { signal } = timeLimit(1500);
  jest.advanceTimersByTime(59_000);
  expect(signal.aborted).toBe(false);
  jest.advanceTimersByTime(3000);
  expect(signal.aborted).toBe(true);
});

test('what is over is not ended any more', () => {
  const { signal, begun, clear } = timeLimit(1500);
  begun[0] = Date.now();
  clear();
  jest.advanceTimersByTime(100_000);
  expect(signal.aborted).toBe(false);
});
