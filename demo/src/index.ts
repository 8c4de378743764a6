export { makeDocx, type Imprint } from './docxFile.ts';
export { password, people } from './people.ts';
export { libraries } from './libraries.ts';
export { stories } from './stories.ts';
