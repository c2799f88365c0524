import type { WorkspaceChange } from '@pindro/contract/light';
import { isObject } from '@pindro/core/browser';
import { api } from '../state/api.js';
import { localProblem } from '../state/local-problem.js';
import { Action } from '../state/resource.svelte.js';

type Files = Record<string, string>;
export type BundlePreview = Awaited<ReturnType<typeof api.previewBundle>>;

/** Files that somebody brought: how they differ from what is here, and taking them in. */
export class ImportSelection {
  files = $state.raw<Files | null>(null);
  changes = $state.raw<WorkspaceChange[]>([]);

  readonly compare = new Action(async (files: Files) => {
    this.take.result = undefined;
    this.take.problem = null;
    const { items } = await api.compareWorkspace({ body: { files } });
    this.files = files;
    this.changes = items.filter((one) => one.change !== 'same');
  });
  readonly take = new Action(async (overwrite: boolean) =>
    api.importWorkspace({ body: { files: this.files!, overwrite } }),
  );

  /** A bundle that somebody brought, with what it holds and needs. */
  bundle = $state.raw<{ text: string; preview: BundlePreview } | null>(null);
  readonly look = new Action(async (text: string) => {
    this.leave();
    this.bundle = { text, preview: await api.previewBundle({ body: { document: text } }) };
  });

  /** Reads what was dropped or chosen: one file with all of them, single documents, a folder, or a bundle. */
  bring = async (list: readonly File[]): Promise<void> => {
    const texts = await Promise.all(list.map((file) => file.text()));
    const bundle = texts.find((text) => formatOf(text) === 'pindro/bundle@1');
    if (bundle !== undefined) {
      if (list.length === 1) return void (await this.look.run(bundle));
      this.look.problem = localProblem(
        'A bundle must be imported alone',
        'Drop the file of one bundle without others.',
      );
      return;
    }
    this.leave();
    this.look.problem = null;
    await this.compare.run(await readAll(list));
  };

  leave(): void {
    this.files = null;
    this.changes = [];
    this.bundle = null;
  }
}

async function readAll(list: readonly File[]): Promise<Files> {
  const files: Files = {};
  for (const file of list) {
    const text = await file.text();
    const whole = file.name.endsWith('.json') ? filesIn(text) : null;
    if (whole) Object.assign(files, whole);
    else files[await pathOf(file, text)] = text;
  }
  return files;
}

/** The files in a file that holds all of a workspace. */
function filesIn(text: string): Files | null {
  try {
    const read = JSON.parse(text) as { format?: string; files?: unknown };
    return read.format === 'pindro/files@1' && isObject(read.files) ? (read.files as Files) : null;
  } catch {
    return null;
  }
}

const formatOf = (text: string) => /^\s*"?format"?:\s*"?([\w/@]+)/m.exec(text)?.[1] ?? '';

const FOLDERS: Record<string, string> = { 'pindro/flow@1': 'flows', 'pindro/endpoint@1': 'endpoints' };

/** Returns the path of a document in a workspace: by its folder, otherwise by its content. */
async function pathOf(file: File, text: string): Promise<string> {
  const below = file.webkitRelativePath.split('/').slice(1).join('/');
  if (below !== '') return below;
  const folder = FOLDERS[formatOf(text)];
  return folder ? `${folder}/${file.name}` : file.name;
}
