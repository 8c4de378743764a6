export * from './common.ts';
export * from './session.ts';
export * from './libraries.ts';
export * from './rulebook.ts';
export * from './documents.ts';
export * from './custody.ts';
export * from './reading.ts';
export * from './routes.ts';
export { openApi } from './openApi.ts';
