import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { pathToFileURL } from 'node:url';

/** Files converted in one run: the suite keeps memory of each. */
const atOnce = 60;

/** Forms the suite saves files in, and by which of its filters. */
const filters = {
  txt: 'txt:Text (encoded):UTF8',
  docx: 'docx:MS Word 2007 XML',
  odt: 'odt',
  fodt: 'fodt',
  pdf: 'pdf',
} as const;
type OfficeForm = keyof typeof filters;

/**
 * Files made and opened by two programs that know nothing of each other: pandoc, and an office suite
 * without a screen.
 */
export class Office {
  private readonly folder = mkdtempSync(join(tmpdir(), 'office-'));
  private count = 0;

  /** A file of this name in the folder that goes when it is closed. */
  write(name: string, content: string | Uint8Array): string {
    const path = join(this.folder, name);
    writeFileSync(path, content);
    return path;
  }

  /** A .docx that pandoc writes from its markdown. */
  fromMarkdown(markdown: string): Uint8Array {
    this.count += 1;
    const [source, target] = [
      this.write(`${this.count}.md`, markdown),
      join(this.folder, `${this.count}.docx`),
    ];
    execFileSync('pandoc', ['-f', 'markdown', '--resource-path', this.folder, '-o', target, source]);
    return readFileSync(target);
  }

  /** What pandoc reads in a .docx, tracked changes and comments too. */
  markdownOf(docx: Uint8Array): string {
    this.count += 1;
    const path = this.write(`${this.count}.docx`, docx);
    const to = ['-t', 'markdown', '--wrap=none', '--track-changes=all'];
    return execFileSync('pandoc', ['-f', 'docx', ...to, path], { encoding: 'utf8', maxBuffer: 1 << 28 });
  }

  /**
   * Files as the office suite saves them anew, many in one run; one that is missing then is tried by itself.
   * @param to `docx`, or `txt` for the words it reads
   * @throws Error naming a file that it cannot open
   */
  saved(files: readonly Uint8Array[], to: 'docx' | 'txt'): Uint8Array[] {
    return this.converted(files, 'docx', to);
  }

  /** Files of one form as the suite saves them in another. @throws Error as `saved` */
  converted(files: readonly (Uint8Array | string)[], from: string, to: OfficeForm): Uint8Array[] {
    const paths = files.map((content) => this.write(`${(this.count += 1)}-in.${from}`, content));
    const made = new Map<string, Uint8Array>();
    for (let first = 0; first < paths.length; first += atOnce)
      for (const [path, bytes] of this.convert(paths.slice(first, first + atOnce), to)) made.set(path, bytes);
    return paths.map((path) => {
      const bytes = made.get(path) ?? this.convert([path], to).get(path);
      if (!bytes) throw new Error(`the office suite cannot open ${path}`);
      return bytes;
    });
  }

  private convert(paths: readonly string[], to: OfficeForm): Map<string, Uint8Array> {
    const out = mkdtempSync(join(this.folder, 'out-'));
    const profile = `-env:UserInstallation=${pathToFileURL(join(this.folder, 'profile')).href}`;
    const convert = ['--headless', '--norestore', '--convert-to', filters[to], '--outdir', out];
    spawnSync('soffice', [profile, ...convert, ...paths], { stdio: 'ignore', timeout: 300_000 });
    const written = (path: string): string => join(out, basename(path).replace(/[^.]*$/, to));
    return new Map(
      paths.filter((path) => existsSync(written(path))).map((path) => [path, readFileSync(written(path))]),
    );
  }

  /** The text of each page of a PDF, as pdf.js reads it, in a process of its own. */
  pagesOf(pdf: Uint8Array): string[] {
    this.count += 1;
    const path = this.write(`${this.count}.pdf`, pdf);
    const read = `import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';
      import { readFileSync } from 'node:fs';
      const pdf = await getDocument({ data: new Uint8Array(readFileSync(process.argv[1])), verbosity: 0 }).promise;
      const pages = [];
      for (let number = 1; number <= pdf.numPages; number += 1) {
        const { items } = await (await pdf.getPage(number)).getTextContent();
        pages.push(items.map((item) => item.str).join(' '));
      }
      console.log(JSON.stringify(pages));`;
    const ran = execFileSync(process.execPath, ['--input-type=module', '-e', read, path], {
      encoding: 'utf8',
    });
    return JSON.parse(ran) as string[];
  }

  close(): void {
    rmSync(this.folder, { recursive: true, force: true });
  }
}
