import { z } from 'zod';

// In a page a schema does not look whether it may compile itself: the page's policy forbids it, and the
// browser would note each try. Before any schema is made, since each looks then.
if ('document' in globalThis) z.config({ jitless: true });
