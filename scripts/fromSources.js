/** A resolve hook of Node.js: the workspaces are read from their sources instead of what was built. */
export function resolve(specifier, context, next) {
  const [, workspace] = /^@polychron\/(core|contract|server|demo)$/.exec(specifier) ?? [];
  return next(workspace ? new URL(`../${workspace}/src/index.ts`, import.meta.url).href : specifier, context);
}
