import type { OwnField } from '@polychron/contract';

type Choices = OwnField['choices'];

/** What can be chosen, a line each: "Ropes: Haul rope, Track rope". */
export const choicesText = (choices: Choices): string =>
  choices
    .map(({ name, within }) => [name, ...(within.length > 0 ? [within.join(', ')] : [])].join(': '))
    .join('\n');

/** The choices of a text of lines; what is within one stands behind its colon, with commas between. */
export const choicesOf = (text: string): Choices =>
  text
    .split('\n')
    .map((line) => {
      const [name = '', ...rest] = line.split(':');
      const within = rest.join(':').split(',');
      return { name: name.trim(), within: within.map((each) => each.trim()).filter(Boolean) };
    })
    .filter(({ name }) => name !== '');
