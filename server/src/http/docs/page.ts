import { refusalCodes } from '@polychron/contract';

const escape = (text: string): string => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);

/** The codes of refusals, each at the place that the `type` of a problem points to (RFC 9457, 3.1.1). */
const refusals = (): string =>
  Object.entries(refusalCodes)
    .map(
      ([code, { status, says }]) =>
        `<tr id="${code}"><th scope="row"><code>${code}</code></th><td>${status}</td><td>${escape(says)}</td></tr>`,
    )
    .join('');

/**
 * A page that tells the HTTP interface to a person: operations drawn from the OpenAPI document, then
 * refusals.
 */
export const docsPage = (): string => `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Polychron: HTTP interface</title>
<link rel="stylesheet" href="/api/docs/swagger-ui.css"><link rel="stylesheet" href="/api/docs/docs.css">
</head>
<body>
<main>
<h1>Polychron: HTTP interface, version 1</h1>
<p>JSON under <code>/api/v1</code>; the same for programs: <a href="/api/v1/openapi.json">OpenAPI 3.1</a>.
What is refused is answered with problem details (RFC 9457) and a code that stays:
<a href="#refusals">refusals</a>.</p>
<div id="operations"></div>
<h2 id="refusals">Refusals</h2>
<table><thead><tr><th scope="col">code</th><th scope="col">status</th><th scope="col">for example</th></tr></thead>
<tbody>${refusals()}</tbody></table>
</main>
<script src="/api/docs/swagger-ui-bundle.js"></script><script src="/api/docs/docs.js"></script>
</body>
</html>`;

/** Draws the operations; nothing is sent from the page. */
export const docsScript = `window.SwaggerUIBundle({
  url: '/api/v1/openapi.json',
  dom_id: '#operations',
  docExpansion: 'list',
  defaultModelsExpandDepth: 0,
  filter: true,
  supportedSubmitMethods: [],
  validatorUrl: null,
  syntaxHighlight: false,
});`;
