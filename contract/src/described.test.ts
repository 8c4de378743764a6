import { descriptions } from './descriptions.ts';
import { examples } from './examples.ts';
import { commonRefusals, refusalCodes, refusals } from './refusals.ts';
import { routes, type Route } from './routes.ts';

const all = Object.entries(routes as Record<string, Route>);

describe.each(all)('%s', (name, route) => {
  const operation = name as keyof typeof routes;
  const example = examples[name];
  test('is described, and its refusals are explained', () => {
    expect(descriptions[operation].length).toBeGreaterThan(5);
    for (const code of refusals[operation]) expect(refusalCodes).toHaveProperty([code]);
  });
  test('has an example of what it answers, which is one', () => {
    if (!route.answer) return;
    expect(example).toHaveProperty('answer');
    route.answer.parse(example?.answer);
  });
  test('has an example of what it takes, which is one', () => {
    if (!route.body) return;
    expect(example).toHaveProperty('request');
    route.body.parse(example?.request);
  });
});

test('what any operation may be refused with is explained', () => {
  for (const code of commonRefusals) expect(refusalCodes).toHaveProperty([code]);
});
