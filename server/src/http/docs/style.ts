/** The page in our type and colours, light and dark. */
export const docsStyle = `
@font-face { font-family: 'Source Sans 3'; src: url(/api/docs/source-sans-3.woff2) format('woff2'); font-weight: 200 900; }
@font-face { font-family: 'Source Serif 4'; src: url(/api/docs/source-serif-4.woff2) format('woff2'); font-weight: 200 900; }
@font-face { font-family: 'JetBrains Mono'; src: url(/api/docs/jetbrains-mono.woff2) format('woff2'); font-weight: 100 800; }
:root { color-scheme: light dark; --paper: #fdfcf9; --desk: #f3f1ea; --ink: #1c2433; --muted: #586172;
  --hairline: #dedacd; --accent: #1b6b60; }
@media (prefers-color-scheme: dark) {
  :root { --paper: #13171e; --desk: #0e1116; --ink: #e9e5db; --muted: #a3aab6; --hairline: #323945; --accent: #74c8b6; }
}
body { margin: 0; background: var(--paper); color: var(--ink); font: 16px/1.5 'Source Sans 3', sans-serif; }
main { max-width: 68rem; margin: 0 auto; padding: 24px 24px 80px; }
h1, h2, .swagger-ui .opblock-tag { font-family: 'Source Serif 4', serif; }
h1 { font-size: 28px; } h2 { font-size: 21px; margin-top: 40px; }
a, .swagger-ui a, .swagger-ui .info a { color: var(--accent); }
code, pre, .swagger-ui code, .swagger-ui pre, .swagger-ui .microlight, .swagger-ui .opblock-summary-path,
.swagger-ui .parameter__name, .swagger-ui .prop-type { font-family: 'JetBrains Mono', monospace !important; font-size: 13px; }
table { border-collapse: collapse; width: 100%; }
main > table th, main > table td { text-align: start; vertical-align: baseline; padding: 6px 14px 6px 0;
  border-top: 1px solid var(--hairline); font-weight: 400; }
main > table thead th { color: var(--muted); border: 0; }
tr:target { background: var(--desk); }
.swagger-ui, .swagger-ui * { color: var(--ink) !important; font-family: inherit; }
.swagger-ui .parameter__in, .swagger-ui .prop-format, .swagger-ui .opblock-summary-description,
.swagger-ui .opblock-summary-method { color: var(--muted) !important; }
.swagger-ui code, .swagger-ui .renderedMarkdown code { background: var(--desk) !important; font-weight: 400; }
.swagger-ui select { border-color: var(--muted) !important; }
.swagger-ui .response-control-media-type__accept-message, .swagger-ui .response-col_links { display: none; }
.swagger-ui .opblock .tab-header .tab-item.active h4 span::after { background: var(--ink); }
.swagger-ui .info, .swagger-ui .scheme-container, .swagger-ui .topbar, .swagger-ui svg.locked, .swagger-ui .authorization__btn { display: none; }
.swagger-ui .wrapper { padding: 0; max-width: none; }
.swagger-ui .opblock-tag { font-size: 21px; border-bottom: 1px solid var(--hairline); }
.swagger-ui .opblock, .swagger-ui .opblock .opblock-summary, .swagger-ui .opblock .opblock-section-header {
  background: none !important; border: 0 !important; box-shadow: none !important; margin: 0; }
.swagger-ui .opblock { border-bottom: 1px solid var(--hairline) !important; }
.swagger-ui .opblock .opblock-summary-method { background: none !important; color: var(--muted); text-align: start;
  font: 600 13px 'JetBrains Mono', monospace; min-width: 64px; text-shadow: none; padding: 6px 0; }
.swagger-ui .opblock .opblock-summary-description, .swagger-ui .opblock-description-wrapper p, .swagger-ui .renderedMarkdown p,
.swagger-ui table thead tr td, .swagger-ui table thead tr th, .swagger-ui .response-col_status, .swagger-ui .tab li,
.swagger-ui .parameter__name, .swagger-ui .parameter__type, .swagger-ui .opblock-section-header h4 {
  font-family: inherit; color: var(--ink); }
.swagger-ui .opblock .opblock-summary-description { color: var(--muted); font-size: 15px; }
.swagger-ui .highlight-code > .microlight, .swagger-ui .opblock-body pre.microlight, .swagger-ui .model-box,
.swagger-ui section.models, .swagger-ui section.models .model-container {
  background: var(--desk) !important; color: var(--ink); border-color: var(--hairline); }
.swagger-ui .highlight-code > .microlight *, .swagger-ui .opblock-body pre.microlight * { color: var(--ink) !important; }
.swagger-ui .parameter__in, .swagger-ui .prop-format, .swagger-ui .parameter__deprecated { color: var(--muted); }
.swagger-ui .filter .operation-filter-input, .swagger-ui select, .swagger-ui input[type=text] {
  background: var(--paper); color: var(--ink); border: 1px solid var(--muted); border-radius: 3px; font-family: inherit; box-shadow: none; }
.swagger-ui svg { fill: var(--ink); }
`;
