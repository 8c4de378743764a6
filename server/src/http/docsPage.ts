import { openApi, routes, type Route } from '@polychron/contract';

const escape = (text: string): string => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);

/** A page that tells the HTTP interface to a person, made from the same document as the OpenAPI one. */
export function docsPage(): string {
  const { paths } = openApi() as { paths: Record<string, Record<string, object>> };
  const sections = Object.entries(routes as Record<string, Route>).map(
    ([name, route]) => `
    <section><h2 id="${name}"><code>${route.method.toUpperCase()} ${escape(route.path)}</code></h2><p>${escape(route.summary)}.</p>
    <details><summary>Parameters, body, answer</summary><pre tabindex="0">${escape(JSON.stringify(paths[route.path]?.[route.method], null, 2))}</pre></details></section>`,
  );
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Polychron: HTTP interface</title>
<meta name="viewport" content="width=device-width"><style>body{font:16px/1.5 sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#1c2433;background:#fdfcf9}
h2{font-size:1rem;margin:1.5rem 0 0}pre{overflow:auto;background:#f3f1ea;padding:1rem;font-size:13px}</style></head>
<body><main><h1>Polychron: HTTP interface, version 1</h1><p>JSON under <code>/api/v1</code>; errors are problem details (RFC 9457) with a stable
<code>code</code>. The same as a document for programs: <a href="/api/v1/openapi.json">OpenAPI 3.1</a>.</p>${sections.join('')}</main></body></html>`;
}
