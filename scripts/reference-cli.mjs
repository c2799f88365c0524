/* Writes docs/cli.md: every command with its arguments and options, from the program itself. */
const cell = (text) => String(text).replaceAll('|', '\\|').replaceAll('\n', ' ').replaceAll('<', '&lt;');
const usageOf = (command, path) =>
  [
    path,
    ...command.registeredArguments.map((one) => {
      const name = `${one.name()}${one.variadic ? '...' : ''}`;
      return one.required ? `<${name}>` : `[${name}]`;
    }),
  ].join(' ');

function optionRow(option) {
  const choices = option.argChoices ? ` (${option.argChoices.join(', ')})` : '';
  const preset = option.defaultValue;
  const shown =
    preset === undefined || typeof preset === 'object' || typeof preset === 'boolean' ? '' : `; default \`${preset}\``;
  const environment = option.envVar ? `; environment variable \`${option.envVar}\`` : '';
  return `| \`${option.flags}\` | ${cell(option.description)}${choices}${shown}${environment} |`;
}

function section(command, path, depth) {
  const inner = command.commands.filter((one) => one.name() !== 'help');
  const options = command.options.filter((option) => !option.hidden);
  const table =
    options.length > 0 ? `\n\n| Option | Description |\n| --- | --- |\n${options.map(optionRow).join('\n')}` : '';
  const usage = inner.length > 0 ? '' : `\n\n\`${usageOf(command, path)}\``;
  const text = `${'#'.repeat(depth)} ${path.replace('pindro ', '')}\n\n${command.description()}${usage}${table}`;
  return [text, ...inner.map((one) => section(one, `${path} ${one.name()}`, depth + 1))].join('\n\n');
}

/** @param write writes a page by its name @param made the note about generated pages */
export async function writeCommands(write, made) {
  const { buildProgram } = await import('../packages/cli/dist/program.js');
  const program = buildProgram();
  const commands = program.commands.filter((one) => one.name() !== 'help');
  write(
    'cli.md',
    `# Command line\n\n${made}\n\nCommands have the form \`pindro NOUN VERB\`. Exit codes: 0 success, 1 failure, 2 wrong usage, 3 service unreachable, 4 not allowed, 5 waiting for an approval.\n\n| Global option | Description |\n| --- | --- |\n${program.options.map(optionRow).join('\n')}\n\n${commands.map((one) => section(one, `pindro ${one.name()}`, 2)).join('\n\n')}`,
  );
}
