import { routes } from '@polychron/contract';
import { performChangeFields } from '../acts/changeFields.ts';
import { admitCreating, performBeginning, performCreate, uploaded } from '../acts/createDocument.ts';
import { readDocument, readInForce } from '../reads/document.ts';
import { performMarkTemplate } from '../acts/markTemplate.ts';
import { issueOf } from '../reads/issued.ts';
import { findByFileName } from '../reads/fileNames.ts';
import { readRegister, readSubjects } from '../reads/register.ts';
import { readTemplates } from '../reads/templates.ts';
import { readVisibility } from '../reads/sight.ts';
import { setLinks } from './links.ts';
import type { ContractRouter } from './router.ts';
import { fileMissing, malformed } from './upload.ts';
import { sendContent, sendIssued } from './sendContent.ts';

/** Documents: the Register, registering, fields, what is in force. */
export function documentRoutes(router: ContractRouter): void {
  router.on(routes.listSubjects, ({ asker, params, query }) => readSubjects(asker, params.id, query));
  router.on(routes.listDocuments, ({ asker, params, query }) => readRegister(asker, params.id, query));
  router.on(routes.findByFileName, ({ asker, params, query }) =>
    findByFileName(asker, params.id, query.name),
  );
  router.on(routes.createDocument, async ({ asker, params, form }) => {
    await admitCreating(asker, params.id);
    const { body, file } = await form();
    const { template } = body;
    if (file && template !== undefined) throw malformed('it has both a file and a template');
    if (template !== undefined) return performBeginning(asker, params.id, body, template);
    if (!file) throw fileMissing();
    return performCreate(asker, params.id, body, uploaded(asker.context, file));
  });
  router.on(routes.listTemplates, ({ asker, params, query }) => readTemplates(asker, params.id, query));
  router.on(routes.markTemplate, ({ asker, params, body }) =>
    performMarkTemplate(asker, params.id, body.type),
  );
  router.on(routes.readDocument, async ({ asker, params, res }) => {
    const { view, tag } = await readDocument(asker, params.id);
    res.set('ETag', tag);
    setLinks(res, params.id, { latest: view.latest.label, holds: view.custody?.mine ?? false });
    return view;
  });
  router.on(routes.changeDocument, ({ asker, params, body }) => performChangeFields(asker, params.id, body));
  router.on(routes.documentContent, async ({ asker, params, query, res }) => {
    const { access, version, number, label } = await readInForce(asker, params.id);
    const { context } = asker;
    const { content } = version;
    if (query.issued) return sendIssued(context, res, await issueOf(context, access, version));
    const mark = query.marked ? { number, label, versionId: version.id } : null;
    return sendContent(context, res, { content, mark });
  });
  router.on(routes.visibility, ({ asker, params, query }) => readVisibility(asker, params.id, query));
}
