export { makeDocx, type Imprint } from './docxFile.ts';
export { password, people } from './people.ts';
export { stories } from './stories.ts';
