/*
 * Command names and options of version 0.1, which still work in version 0.2 with a notice.
 * Remove this file with version 0.3.
 */

/** New verbs by the former "noun verb". */
const VERBS: Record<string, string> = {
  'approval refuse': 'reject',
  'approval standing': 'grants',
  'credential change': 'update',
  'document change': 'update',
  'document read': 'inspect',
  'document take': 'import',
  'endpoint change': 'update',
  'endpoint choose': 'select-tool',
  'endpoint make': 'create',
  'endpoint off': 'disable',
  'endpoint on': 'enable',
  'endpoint put': 'add-tool',
  'endpoint take': 'remove-tool',
  'endpoint word': 'describe-tool',
  'entry change': 'update',
  'entry off': 'disable',
  'entry on': 'enable',
  'flow change': 'update',
  'flow live': 'activate',
  'flow make': 'create',
  'key change': 'update',
  'model change': 'update',
  'model offers': 'available',
  'problem expected': 'expect',
  'problem mended': 'resolve',
  'problem open': 'reopen',
  'row change': 'update',
  'run again': 'retry',
  'run beside': 'compare',
  'run cure': 'fix',
  'run make-flow': 'create-flow',
  'sample change': 'update',
  'sample keep': 'save',
  'server change': 'update',
  'server lists': 'history',
  'server off': 'disable',
  'server on': 'enable',
  'server refuse': 'reject',
  'table change': 'update',
  'table make': 'create',
  'workshop brief': 'instructions',
  'workshop close': 'deny',
  'workshop decline': 'reject',
  'workshop look': 'review',
  'workshop off': 'disable',
  'workshop on': 'enable',
  'workshop open': 'allow',
  'workshop take': 'accept',
};

/** New options by the commands that have them, and their former names. */
const OPTIONS: Record<string, Record<string, string>> = {
  'approval approve': { '--for': '--scope', '--holds': '--valid-for' },
  'approval reject': { '--for': '--scope', '--holds': '--valid-for' },
  'credential update': { '--keep': '--overlap' },
  'endpoint describe-tool': { '--ask': '--describe' },
  'entry hook': { '--guard': '--auth', '--answer': '--respond' },
  'entry update': { '--guard': '--auth', '--answer': '--respond' },
  'flow run': { '--exact': '--capture' },
  'model add': { '--spare': '--extra-credential', '--untested': '--skip-test' },
  'model update': { '--spare': '--extra-credential', '--untested': '--skip-test' },
  'problem list': { '--dealt-with': '--handled' },
  'run fix': { '--try': '--dry-run' },
  'run list': { '--cost': '--min-cost', '--longer': '--min-duration', '--tokens': '--min-tokens' },
  'run retry': { '--exact': '--capture' },
  'server attach': { '--look': '--preview', '--untested': '--skip-test' },
  'server log': { '--last': '--tail' },
  'server update': {
    '--ask': '--describe',
    '--at-once': '--concurrency',
    '--folder': '--cwd',
    '--through': '--proxy',
    '--untested': '--skip-test',
  },
};
/** Options that had another name in every command. */
const EVERYWHERE: Record<string, string> = { '--anyway': '--force' };
const NOUNS: Record<string, string> = { figures: 'metrics' };

/** Options of the program whose value follows as an argument of its own. */
const WITH_VALUE = new Set(['--url', '--key', '--settings']);

/** "document update" read a newer document in version 0.1; what changed settings was "document change". */
const isFormerRefresh = (rest: readonly string[]) =>
  rest.includes('--apply') || !rest.some((one) => one.startsWith('--') && one !== '--json' && one !== '--help');

/**
 * Replaces names of version 0.1 by the present ones.
 *
 * @param args the arguments of the program, without the interpreter and the script
 * @returns the arguments with present names, and a notice for each former name
 */
export function renameFormer(args: readonly string[]): { args: string[]; notices: string[] } {
  const next = [...args];
  const notices: string[] = [];
  const notice = (former: string, now: string) =>
    notices.push(`"${former}" is deprecated and will be removed in version 0.3. Use "${now}".`);
  let at = 0;
  while (next[at]?.startsWith('-')) at += WITH_VALUE.has(next[at]!) ? 2 : 1;
  const noun = next[at];
  if (noun === undefined) return { args: next, notices };
  const presentNoun = Object.hasOwn(NOUNS, noun) ? NOUNS[noun]! : noun;
  if (presentNoun !== noun) {
    notice(noun, presentNoun);
    next[at] = presentNoun;
  }
  const verb = next[at + 1] ?? '';
  const former = `${presentNoun} ${verb}`;
  let present = Object.hasOwn(VERBS, former) ? VERBS[former]! : verb;
  if (former === 'document update' && isFormerRefresh(next.slice(at + 2))) present = 'refresh';
  if (present !== verb) {
    notice(former, `${presentNoun} ${present}`);
    next[at + 1] = present;
  }
  const options = { ...EVERYWHERE, ...OPTIONS[`${presentNoun} ${present}`] };
  const end = next.indexOf('--', at);
  for (let index = at + 1; index < (end === -1 ? next.length : end); index++) {
    const [name = '', ...value] = next[index]!.split('=');
    if (!Object.hasOwn(options, name)) continue;
    notice(name, options[name]!);
    next[index] = [options[name]!, ...value].join('=');
  }
  return { args: next, notices };
}
