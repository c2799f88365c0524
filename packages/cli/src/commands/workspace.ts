import { mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, relative, sep } from 'node:path';
import type { Command } from '@commander-js/extra-typings';
import { RESOURCES } from '@pindro/contract';
import pc from 'picocolors';
import { QuietFailure, withService } from '../context.js';
import { usage } from '../usage.js';

/** Files that contain no resource. */
const MORE = ['names.yaml', 'workshop.yaml'];
const KNOWN: readonly string[] = [...RESOURCES.flatMap(({ files = [] }) => files), ...MORE];

/** The files of a workspace folder, by their path within it; anything else in there is left alone. */
function readFolder(folder: string): Record<string, string> {
  if (!statSync(folder, { throwIfNoEntry: false })?.isDirectory())
    throw usage(`Folder ${folder} does not exist`, 'Create one with "pindro workspace export FOLDER".');
  const files = readdirSync(folder, { recursive: true })
    .map((file) => String(file).split(sep).join('/'))
    .filter((file) => /\.(ya?ml|json)$/.test(file) && (KNOWN.includes(file.split('/')[0]!) || KNOWN.includes(file)));
  return Object.fromEntries(files.sort().map((file) => [file, readFileSync(join(folder, file), 'utf8')]));
}

const SIGNS = { added: pc.green('+'), removed: pc.red('-'), changed: pc.yellow('~'), same: ' ' };

export function workspaceCommands(program: Command): void {
  const workspace = program.command('workspace').description('the workspace as files: export, import, diff');
  exportCommand(workspace);
  importCommand(workspace);
  diffCommand(workspace);
}

/** What is missing, and the command that gives it. */
export const showGap = ({ what, command }: { what: string; command: string }): string =>
  `  ${pc.yellow('○')} ${what}\n    ${pc.bold(command)}`;

/** Lines that differ, each with two around it. */
function near(lines: { sign: ' ' | '+' | '-'; text: string }[]): string[] {
  const shown = lines.map((_, index) =>
    lines.slice(Math.max(0, index - 2), index + 3).some((line) => line.sign !== ' '),
  );
  return lines.flatMap(({ sign, text }, index) => {
    if (!shown[index]) return shown[index - 1] ? [pc.dim('    …')] : [];
    const line = `  ${sign} ${text}`;
    return [sign === '+' ? pc.green(line) : sign === '-' ? pc.red(line) : pc.dim(line)];
  });
}

function exportCommand(workspace: Command): void {
  workspace
    .command('export <folder>')
    .description(
      'exports flows, live revisions, endpoints, servers, models, tables and entry points as files; never secrets',
    )
    .option('--rows', 'includes rows of tables')
    .option('--people', 'includes people with access')
    .option('--drafts', 'drafts only, without live revisions')
    .option('--prune', 'removes files of things that no longer exist')
    .action(
      withService(async ({ client, print }, [folder], options: Record<string, boolean | undefined>) => {
        const { prune, rows, people, drafts } = options;
        const asked = { rows: String(rows === true), people: String(people === true), drafts: String(drafts === true) };
        const { files } = await client.exportWorkspace({ query: asked });
        const before = statSync(folder, { throwIfNoEntry: false }) ? readFolder(folder) : {};
        const written = Object.entries(files).filter(([path, text]) => before[path] !== text);
        for (const [path, text] of written) {
          const target = join(folder, path);
          mkdirSync(dirname(target), { recursive: true });
          writeFileSync(target, text);
        }
        const gone = Object.keys(before).filter((path) => !(path in files));
        if (prune) for (const path of gone) rmSync(join(folder, path));
        print({ written: written.map(([path]) => path), gone }, () =>
          [
            `${pc.green('✓')} ${Object.keys(files).length} files in ${relative('.', folder) || '.'}, ${written.length} of them changed`,
            ...(gone.length > 0
              ? [`  ${prune ? 'deleted' : 'not in the workspace (--prune removes them)'}: ${gone.join(', ')}`]
              : []),
          ].join('\n'),
        );
      }),
    );
}

function importCommand(workspace: Command): void {
  workspace
    .command('import <folder>')
    .description('imports the files of a folder atomically')
    .option('--overwrite', 'replaces things of the same name; secrets and IDs remain')
    .option('--drafts', 'ignores live revisions in the files and imports drafts only')
    .action(
      withService(async ({ client, print }, [folder], { overwrite, drafts }) => {
        const outcome = await client.importWorkspace({
          body: { files: readFolder(folder), overwrite: overwrite === true, drafts: drafts === true },
        });
        print(outcome, () =>
          [
            ...outcome.done.map((path) => `${pc.green('✓')} ${path}`),
            ...outcome.refused.flatMap(({ path, mistakes }) =>
              mistakes.map(
                (mistake) =>
                  `${pc.red('✗')} ${path}${mistake.line === undefined ? '' : `:${mistake.line}:${mistake.column}`}  ${mistake.message}${mistake.hint ? `\n    ${pc.dim(mistake.hint)}` : ''}`,
              ),
            ),
            ...(outcome.refused.length > 0
              ? ['Nothing was imported.']
              : outcome.done.length === 0
                ? ['No changes.']
                : []),
            ...(outcome.gaps.length > 0 ? ['Still required:', ...outcome.gaps.map(showGap)] : []),
          ].join('\n'),
        );
        if (outcome.refused.length > 0) throw new QuietFailure();
      }),
    );
}

function diffCommand(workspace: Command): void {
  workspace
    .command('diff <folder>')
    .description('shows how the files of a folder differ from the workspace; exits with 1 if they do')
    .action(
      withService(async ({ client, print }, [folder]) => {
        const { items } = await client.compareWorkspace({ body: { files: readFolder(folder) } });
        const different = items.filter((one) => one.change !== 'same');
        print({ items: different }, () =>
          different.length === 0
            ? 'No differences.'
            : different
                .map(({ path, change, lines }) =>
                  [`${SIGNS[change]} ${pc.bold(path)} ${change}`, ...(change === 'changed' ? near(lines) : [])].join(
                    '\n',
                  ),
                )
                .join('\n'),
        );
        if (different.length > 0) throw new QuietFailure();
      }),
    );
}
