import {
  type APIRequestContext,
  type Browser,
  expect,
  type Locator,
  type Page,
  test,
} from '@playwright/test';
import {
  adminAndAuthor,
  apiAs,
  checkInFile,
  documentFor,
  dropFiles,
  expectAccessible,
  file,
  leave,
  libraryFor,
  openAs,
  password,
} from './support.ts';

const by = adminAndAuthor();
/** Sessions of their own, which do not end with that of a page. */
const looks = {} as { admin: APIRequestContext; author: APIRequestContext };
test.beforeAll(async ({ playwright, baseURL }) => {
  for (const account of ['admin', 'author'] as const) {
    looks[account] = await playwright.request.newContext({ baseURL: baseURL ?? '' });
    await looks[account].post('/api/v1/session', { data: { account, password } });
  }
});
test.afterAll(() => Promise.all(Object.values(looks).map((api) => api.dispose())));

/** A form of the application, and how a person comes to it. */
interface FormCase {
  account: string;
  path: string;
  open: (page: Page) => Promise<unknown>;
  /** Fields with what is typed into each; a pattern of its name, or its whole name. */
  fields: [name: string | RegExp, text: string][];
  /** The press that sends it. */
  send: string | RegExp;
  /** There is one outcome, chosen by opening the form: Enter behind the comment is the press. */
  enterSends?: true;
  /** Where the fields stand, if not on the whole page. */
  within?: (page: Page) => Locator;
}

interface Site {
  id: string;
  library: string;
  code: string;
  page: string;
}

const press = (name: string | RegExp) => (page: Page) =>
  page
    .getByRole('button', { name, exact: typeof name === 'string' })
    .first()
    .click();

/** Documents in a state each, made once. */
async function siteOf(code: string, rulebook: object): Promise<Record<string, Site>> {
  const library = await libraryFor(by.admin, code, rulebook);
  const made: Record<string, Site> = {};
  for (const name of ['draft', 'asked', 'held']) {
    const id = await documentFor(by.author, library, `Form ${name}`, 'Some words.', 'minor');
    made[name] = { id, library, code, page: `/${code}/documents/${id}` };
  }
  const of = (name: string): string => made[name]?.id ?? '';
  const submitted = await by.author.post(`/api/v1/documents/${of('asked')}/submit`, { data: {} });
  expect(submitted.status()).toBe(200);
  const held = await by.author.post(`/api/v1/documents/${of('held')}/checkout`, { data: {} });
  expect(held.status()).toBe(201);
  return made;
}

/** All that the forms could change, as the administrator and the author are told of it. */
async function stands(site: Record<string, Site>): Promise<unknown> {
  const documents = await Promise.all(
    Object.values(site).map(async ({ id }) => {
      const { latest, inForce, custody, approval, versions, title, owner } = (await (
        await looks.author.get(`/api/v1/documents/${id}`)
      ).json()) as Record<string, unknown>;
      return { latest, inForce, custody, approval, versions, title, owner };
    }),
  );
  // Others work on the same site: what the forms would make is looked for by name.
  const asked = ['groups?q=Night shift', 'people?q=moreau'].map(
    async (list) => ((await (await looks.admin.get(`/api/v1/${list}`)).json()) as { total?: number }).total,
  );
  const { library } = Object.values(site)[0] as Site;
  const rules = await (await looks.author.get(`/api/v1/libraries/${library}/rulebook`)).text();
  const registered = (await (await looks.author.get(`/api/v1/libraries/${library}/documents`)).json()) as {
    total: number;
  };
  const libraries = await (await looks.admin.get('/api/v1/libraries')).text();
  return {
    documents,
    lists: await Promise.all(asked),
    rules,
    registered: registered.total,
    made: libraries.includes('Night works'),
  };
}

/** Goes through a form as hands do that slip: nothing comes of it, and nothing typed is lost. */
async function tryForm(page: Page, form: FormCase, site: Record<string, Site>): Promise<void> {
  const before = await stands(site);
  const field = (name: string | RegExp): Locator =>
    (form.within?.(page) ?? page).getByRole('textbox', { name, exact: typeof name === 'string' }).first();
  const holds = async (): Promise<void> => {
    for (const [name, text] of form.fields) await expect(field(name)).toHaveValue(text);
  };
  await page.goto(form.path);
  await form.open(page);
  for (const [name, text] of form.fields) {
    await field(name).fill(text);
    if (!form.enterSends) await field(name).press('Enter');
  }
  await holds();
  expect(await stands(site)).toEqual(before);

  // Left by Escape and by a reload, it is told, and is there when it is opened again.
  await page.keyboard.press('Escape');
  await page.goto(form.path);
  await page.reload();
  await form.open(page);
  await holds();

  // Without a network, and with the session over, the press does nothing and loses nothing.
  const send = (form.within?.(page) ?? page).getByRole('button', { name: form.send }).first();
  await page.context().setOffline(true);
  await send.click();
  await expect(page.getByRole('alert').first()).toBeVisible();
  await holds();
  await page.context().setOffline(false);

  await page.request.delete('/api/v1/session');
  await send.click();
  const again = page.getByRole('region', { name: 'Sign in again' });
  await expect(again).toBeVisible();
  await holds();
  await again.getByLabel('Password', { exact: true }).fill(password);
  await again.getByRole('button', { name: 'Sign in' }).click();
  await expect(again).toBeHidden();
  await holds();
  expect(await stands(site)).toEqual(before);
  await page.reload();
  await form.open(page);
  await holds();
}

/** A page with a session of its own: it is ended, and nobody else's with it. */
async function ownPage(browser: Browser, account: string): Promise<Page> {
  const context = await browser.newContext();
  expect((await context.request.post('/api/v1/session', { data: { account, password } })).ok()).toBe(true);
  return context.newPage();
}

/** Goes through forms one after another, each in a session of its own. */
async function tryForms(
  browser: Browser,
  forms: Record<string, FormCase>,
  site: Record<string, Site>,
): Promise<void> {
  for (const [name, form] of Object.entries(forms)) {
    await test.step(name, async () => {
      const page = await ownPage(browser, form.account);
      await tryForm(page, form, site);
      await page.context().close();
    });
  }
}

const reason = 'Not good: step 2 is wrong';

test('no form of a document decides by a key that does not name it, nor loses what was typed', async ({
  browser,
}) => {
  const site = await siteOf('UNF', { approval: { on: true, approvers: ['approver'] } });
  const at = (name: string): string => site[name]?.page ?? '';
  const plan = file('plan.txt', 'A plan.');
  const forms: Record<string, FormCase> = {
    decision: {
      account: 'approver',
      path: `/approvals?document=${site['asked']?.id}`,
      open: (page) => expect(page.getByRole('form', { name: 'Decide' })).toBeVisible(),
      fields: [['Comment on the decision', reason]],
      send: /^Approve 0\.1/,
    },
    'new document': {
      account: 'author',
      path: '/UNF',
      open: async (page) => {
        await press(/^New document/)(page);
        const place = page.getByText('Drop the file here');
        await expect(page.getByText(/^Drop (the file here|another)/)).toBeVisible();
        if (await place.isVisible()) await page.locator('input[type=file]').first().setInputFiles(plan);
        await expect(place).toBeHidden();
      },
      fields: [
        ['Title', 'A procedure in the making'],
        ['Comment', 'Begun from notes'],
      ],
      send: /^Register as 0\.1/,
    },
    fields: {
      account: 'author',
      path: at('draft'),
      open: async (page) => {
        await expect(page.getByRole('heading', { level: 1, name: 'Form draft' })).toBeVisible();
        await page.keyboard.press('f');
      },
      fields: [
        ['Title', 'A better title'],
        ['Comment', 'Named as people call it'],
      ],
      send: /^Record as 0\.2/,
    },
    submission: {
      account: 'author',
      path: at('draft'),
      open: press('Submit 0.1'),
      fields: [['What should the approvers look at? (optional)', 'Step 2']],
      send: /^Submit 0\.1$/,
      within: (page) => page.getByRole('region', { name: 'Consequences' }),
      enterSends: true,
    },
    'check-in, its level not chosen': {
      account: 'author',
      path: at('held'),
      open: (page) =>
        page
          .getByRole('button', { name: /^Check in/ })
          .first()
          .click(),
      fields: [['Check-in comment', 'Step 2 put right']],
      send: /^Check in as 0\.2/,
      within: (page) => page.getByRole('region', { name: 'Check in', exact: true }),
    },
    'check-out with a reason': {
      account: 'author',
      path: at('draft'),
      open: press('Add a reason or end date'),
      fields: [['Reason', 'For the winter']],
      send: /^Check out 0\.1/,
      within: (page) => page.getByRole('form', { name: /^Check out/ }),
      enterSends: true,
    },
    'lifting a check-out': {
      account: 'controller',
      path: at('held'),
      open: press('Lift the check-out'),
      fields: [['Why? Its holder reads it.', 'On leave']],
      send: /^Lift .*check-out$/,
      within: (page) => page.getByRole('region', { name: 'Consequences' }),
      enterSends: true,
    },
    'keeping to named people': {
      account: 'controller',
      path: at('draft'),
      open: press('Keep it to named people'),
      fields: [['Why? (kept in the audit trail)', 'Salaries are in it']],
      send: /^Keep it to these/,
      within: (page) => page.getByRole('region', { name: 'Consequences' }),
      enterSends: true,
    },
    'taking back a submission': {
      account: 'author',
      path: at('asked'),
      open: press('Take back the submission'),
      fields: [['Why? (optional)', 'A table is missing']],
      send: /^Make 0\.1 a draft again/,
      within: (page) => page.getByRole('region', { name: 'Consequences' }),
      enterSends: true,
    },
  };
  await tryForms(browser, forms, site);
});

test('no form of the site sends what a key did not name, nor loses what was typed @deep', async ({
  browser,
}) => {
  const site = await siteOf('UNS', { approval: { on: true, approvers: ['approver'] } });
  const forms: Record<string, FormCase> = {
    'new account': {
      account: 'admin',
      path: '/people',
      // A password is not kept.
      open: async (page) => {
        await page.getByRole('tab', { name: 'Accounts' }).click();
        await press('New account')(page);
        await page.getByLabel('First password').fill('a cable over the valley');
      },
      fields: [
        ['Name', 'E. Moreau'],
        ['Account', 'moreau'],
      ],
      send: 'Create the account',
      within: (page) => page.getByRole('region', { name: 'Accounts' }),
      enterSends: true,
    },
    'new group': {
      account: 'admin',
      path: '/people',
      open: async (page) => {
        await page.getByRole('tab', { name: 'Groups' }).click();
        await press('New group')(page);
      },
      fields: [['Name of the group', 'Night shift']],
      send: 'Create',
      within: (page) => page.getByRole('form', { name: 'New group' }),
      enterSends: true,
    },
    rulebook: {
      account: 'controller',
      path: '/UNS/rulebook',
      open: async (page) => {
        await page.getByLabel('Days on the shelf').fill('12');
      },
      fields: [['Reason', 'A year is enough']],
      send: /^Apply/,
    },
    token: {
      account: 'author',
      path: '/account',
      open: () => Promise.resolve(),
      fields: [['What the token is for', 'The nightly list']],
      send: 'Create a token',
      enterSends: true,
    },
  };
  await tryForms(browser, forms, site);
});

test('no form about what is published decides by a key that does not name it, nor loses what was typed @deep', async ({
  browser,
}) => {
  test.slow();
  const library = await libraryFor(by.admin, 'UNP', {});
  const made = async (title: string, next: 'none' | 'draft' | 'twice'): Promise<Site> => {
    const id = await documentFor(by.author, library, title, 'Some words.', 'major');
    const level = next === 'twice' ? 'major' : 'minor';
    if (next !== 'none')
      await checkInFile(by.author, id, { name: 'text.txt', content: 'Other words.', level });
    return { id, library, code: 'UNP', page: `/UNP/documents/${id}` };
  };
  const site = {
    published: await made('Form published', 'none'),
    drafted: await made('Form drafted', 'draft'),
    twice: await made('Form twice', 'twice'),
  };
  const consequences = (page: Page): Locator => page.getByRole('region', { name: 'Consequences' });
  /** An act with a comment, behind one button. */
  const act = (
    account: string,
    of: Site,
    opened: string | RegExp,
    [field, send]: [field: string, send: RegExp],
    severalOutcomes = false,
  ): FormCase => ({
    account,
    path: of.page,
    open: press(opened),
    fields: [[field, reason]],
    send,
    within: consequences,
    ...(severalOutcomes ? {} : { enterSends: true as const }),
  });
  const stays = 'Why? It stays with the version.';
  const forms: Record<string, FormCase> = {
    publishing: act('author', site.drafted, /^Publish/, ['What is new? (By a colleague)', /^Publish/]),
    withdrawing: act('controller', site.published, 'Withdraw 1.0', [stays, /^Withdraw 1\.0$/]),
    voiding: act('controller', site.published, /^Registered by mistake/, [
      'Why? It stays with the document.',
      /^Void UNP-001$/,
    ]),
    'put back in force': {
      ...act('controller', site.twice, 'Put 1.0 back in force', [stays, /^Put 1\.0 back in force$/]),
      path: `${site.twice.page}/versions/1.0`,
    },
    restoring: {
      ...act(
        'author',
        site.twice,
        /^Restore 1\.0/,
        ['Why? (Earlier content brought back)', /^Restore 1\.0 as 2\.1/],
        true,
      ),
      path: `${site.twice.page}/versions/1.0`,
    },
    'removing content': {
      ...act('controller', site.twice, 'Remove content of 1.0', ['Why?', /^Remove content of 1\.0$/]),
      path: `${site.twice.page}/versions/1.0`,
    },
    sheltering: act('controller', site.published, 'Shelter 1.0', ['Why?', /^Shelter 1\.0$/]),
    reviewing: act(
      'author',
      site.published,
      /^Review 1\.0/,
      ['What you found (for a change: what is to be changed)', /^Confirm 1\.0/],
      true,
    ),
  };
  await tryForms(browser, forms, site);
});

test('no form about people, messages or many documents decides by a key that does not name it, nor loses what was typed @deep', async ({
  browser,
}) => {
  test.slow();
  const asked = await siteOf('UNQ', { approval: { on: true, approvers: ['approver'] } });
  const library = await libraryFor(by.admin, 'UNR', {});
  const controller = await ownPage(browser, 'controller');
  const { request } = controller;
  const made = async (title: string): Promise<Site> => {
    const id = await documentFor(by.author, library, title, 'Some words.', 'major');
    return { id, library, code: 'UNR', page: `/UNR/documents/${id}` };
  };
  const site = {
    ...asked,
    limited: await made('Form limited'),
    thinned: await made('Form thinned'),
    one: await made('Form one'),
    two: await made('Form two'),
  };
  const limit = { limit: { people: ['author'], groups: [] }, reason: 'Names' };
  expect((await request.put(`/api/v1/documents/${site.limited.id}/limits`, { data: limit })).ok()).toBe(true);
  for (const content of ['Second words.', 'Third words.', 'Fourth words.'])
    await checkInFile(by.author, site.thinned.id, { name: 'text.txt', content, level: 'major' });
  const rules = { keep: { published: 1 }, reason: 'A slip' };
  const put = await request.put(`/api/v1/libraries/${library}/rulebook`, { data: rules });
  const { revision } = (await put.json()) as { revision: number };
  const shelf = `/api/v1/libraries/${library}/shelf?revision=${revision}`;
  await expect
    .poll(async () => ((await (await request.get(shelf)).json()) as { total: number }).total)
    .toBeGreaterThan(0);
  await controller.context().close();
  for (const { id } of [site.one, site.two]) {
    expect((await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);
    const saved = { data: Buffer.from('Saved words.') };
    expect((await by.author.put(`/api/v1/documents/${id}/checkout/content`, saved)).ok()).toBe(true);
  }
  const arrival = { name: 'arrived.txt', mimeType: 'text/plain', buffer: Buffer.from('Arrived words.') };
  const arrived = await by.author.post('/api/v1/desk/files', { multipart: { file: arrival } });
  const { id: arrivedId } = (await arrived.json()) as { id: string };
  const consequences = (page: Page): Locator => page.getByRole('region', { name: 'Consequences' });
  /** Chooses where nothing is chosen yet; a choice is kept, too. */
  const chosenIn = async (page: Page, field: string, [typed, title]: [string, string]): Promise<void> => {
    const place = page.locator('.ant-select').filter({ has: page.getByRole('combobox', { name: field }) });
    if ((await place.getByTitle(title, { exact: true }).count()) > 0) return;
    await page.getByRole('combobox', { name: field }).fill(typed);
    await page
      .locator('.ant-select-item-option')
      .and(page.getByTitle(title, { exact: true }))
      .click();
  };
  const returned = ['UNR-003 1.0 text.txt', 'UNR-004 1.0 text.txt'].map((name) => ({
    path: file(name, `Changed under ${name}.`),
    name,
  }));
  const forms: Record<string, FormCase> = {
    'new library': {
      account: 'admin',
      path: '/people',
      open: async (page) => {
        await page.getByRole('tab', { name: 'Libraries and members' }).click();
        await press('New library')(page);
        await chosenIn(page, 'Its first controller', ['oduya', 'M. Oduya · controller']);
      },
      fields: [
        ['Name', 'Night works'],
        ['Code, in front of its document numbers', 'NW'],
      ],
      send: 'Create the library',
      within: (page) => page.getByRole('region', { name: 'New library' }),
      enterSends: true,
    },
    'replacing an approver': {
      account: 'controller',
      path: asked['asked']?.page ?? '',
      open: async (page) => {
        await press('Ask somebody else')(page);
        await chosenIn(page, 'Who is asked instead', ['oduya', 'M. Oduya (controller)']);
      },
      fields: [['Why? Both are told.', 'On leave until Monday']],
      send: /^Ask them about 0\.1$/,
      within: consequences,
      enterSends: true,
    },
    'opening to every member': {
      account: 'controller',
      path: site.limited.page,
      open: press('Open it to every member'),
      fields: [['Why? (kept in the audit trail)', 'No names are in it']],
      send: /^Open it/,
      within: consequences,
      enterSends: true,
    },
    'bringing in': {
      account: 'author',
      path: `/desk/files/${arrivedId}/bring-in?document=${site.limited.id}`,
      open: (page) => expect(page.getByRole('textbox', { name: 'Check-in comment' })).toBeVisible(),
      fields: [['Check-in comment', 'As it arrived']],
      send: /^Check in as 1\.1/,
    },
    'undoing a revision': {
      account: 'controller',
      path: `/UNR/shelf?revision=${revision}`,
      open: press(/^Undo what revision/),
      fields: [['Why are they wanted back?', 'The limit was a slip']],
      send: /^Recover \d+ versions?$/,
      within: (page) => page.getByRole('form', { name: /^Undo what/ }),
    },
    'files that come back together': {
      account: 'author',
      path: '/UNR',
      open: async (page) => {
        await expect(page.getByRole('row', { name: /UNR-004/ })).toBeVisible();
        await dropFiles(page.getByRole('main'), returned);
        await expect(page.getByRole('form', { name: 'Check in 2 files' })).toBeVisible();
      },
      fields: [
        ['Comment for all', 'After the storm'],
        ['Comment for UNR-004', 'The upper one'],
      ],
      send: /^Check in 2 files/,
      within: (page) => page.getByRole('form', { name: 'Check in 2 files' }),
    },
    'check-in of many': {
      account: 'author',
      path: '/UNR',
      open: async (page) => {
        for (const number of ['UNR-003', 'UNR-004']) await page.getByLabel(`Tick ${number}`).check();
        await page
          .getByRole('region', { name: 'Ticked documents' })
          .getByRole('button', { name: 'Check in', exact: true })
          .click();
      },
      fields: [['Check-in comment', 'Winter tables']],
      send: /^Check in \d documents?$/,
      within: (page) => page.getByRole('region', { name: 'Ticked documents' }),
    },
  };
  await tryForms(browser, forms, site);
});

test('what is unfinished stands on its page and on the Desk, and is thrown away by its own word', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'UND', {});
  const id = await documentFor(by.author, library, 'Half a thought', 'Some words.', 'minor');
  const page = await openAs(browser, 'author', `/UND/documents/${id}`);
  await page
    .getByRole('button', { name: /^Publish/ })
    .first()
    .click();
  const comment = page.getByRole('textbox', { name: /^What is new/ });
  await comment.fill('New limits for the gorge span');
  await page.getByRole('button', { name: 'Cancel', exact: true }).click();
  const here = page.getByRole('region', { name: 'Unfinished here' });
  await expect(here).toContainText('Publish, UND-001 Half a thought “New limits for the gorge span”');
  await expectAccessible(page);
  await page.getByRole('link', { name: /^Desk/ }).click();
  const desk = page.getByRole('region', { name: 'Unfinished' });
  await expect(desk).toContainText('New limits for the gorge span');
  await expectAccessible(page);
  await desk.getByRole('link', { name: /Half a thought/ }).click();
  await here.getByRole('button', { name: 'Throw it away' }).click();
  await expect(here).toBeHidden();
  await page.reload();
  await page
    .getByRole('button', { name: /^Publish/ })
    .first()
    .click();
  await expect(comment).toHaveValue('');
  await leave(page);
});

test('files that were dropped wait with their titles, and are registered by the press of a button alone', async ({
  browser,
}) => {
  await libraryFor(by.admin, 'UNM', {});
  const page = await openAs(browser, 'author', '/UNM');
  await page.getByRole('button', { name: /^New document/ }).click();
  const files = [file('first plan.txt', 'One.'), file('second plan.txt', 'Two.')];
  await page.locator('input[type=file]').first().setInputFiles(files);
  const many = page.getByRole('region', { name: 'New documents' });
  await many.getByLabel('Title of second plan.txt').fill('The other plan');
  await many.getByLabel('Review by').fill('1 Mar 2027');
  await many.getByLabel('Review by').press('Enter');
  await many.getByRole('textbox', { name: 'Comment' }).fill('From the old folder');
  await many.getByRole('textbox', { name: 'Comment' }).press('Enter');
  await expect(page.getByText('Enter chooses nothing here.')).toBeVisible();
  await page.reload();
  await page.getByRole('button', { name: /^New document/ }).click();
  await expect(many.getByLabel('Title of second plan.txt')).toHaveValue('The other plan');
  await expect(many.getByRole('textbox', { name: 'Comment' })).toHaveValue('From the old folder');
  await many
    .getByRole('button', { name: /^Register 2 documents as 0\.1|^Register 2/ })
    .first()
    .click();
  await expect(page.getByRole('link', { name: 'The other plan' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'First plan' })).toBeVisible();
  await leave(page);
});

test('letters lead to what decides, and Enter there decides', async ({ browser, playwright, baseURL }) => {
  const library = await libraryFor(by.admin, 'UNK', { approval: { on: true, approvers: ['approver'] } });
  const id = await documentFor(by.author, library, 'Led to', 'Some words.', 'minor');
  await by.author.post(`/api/v1/documents/${id}/submit`, { data: {} });
  const page = await openAs(browser, 'approver', `/approvals?document=${id}`);
  const form = page.getByRole('form', { name: 'Decide' });
  await expect(form).toBeVisible();
  await page.keyboard.press('r');
  await expect(form.getByRole('button', { name: 'Reject' })).toBeFocused();
  await page.keyboard.press('a');
  await expect(form.getByRole('button', { name: 'Approve 0.1' })).toBeFocused();
  const api = await apiAs(playwright, 'author', baseURL ?? '');
  const state = async (): Promise<string> =>
    ((await (await api.get(`/api/v1/documents/${id}`)).json()) as { latest: { state: string } }).latest.state;
  expect(await state()).toBe('inApproval');
  await page.keyboard.press('Enter');
  await expect.poll(state).toBe('published');
  await api.dispose();
  await leave(page);
});
