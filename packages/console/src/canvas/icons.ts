import ArrowRightFromLine from '@lucide/svelte/icons/arrow-right-from-line';
import Bot from '@lucide/svelte/icons/bot';
import CircleStop from '@lucide/svelte/icons/circle-stop';
import Clock from '@lucide/svelte/icons/clock';
import Code from '@lucide/svelte/icons/code';
import Database from '@lucide/svelte/icons/database';
import FileText from '@lucide/svelte/icons/file-text';
import GitFork from '@lucide/svelte/icons/git-fork';
import Globe from '@lucide/svelte/icons/globe';
import Mail from '@lucide/svelte/icons/mail';
import Repeat from '@lucide/svelte/icons/repeat';
import Shapes from '@lucide/svelte/icons/shapes';
import Sparkles from '@lucide/svelte/icons/sparkles';
import UserCheck from '@lucide/svelte/icons/user-check';
import Waypoints from '@lucide/svelte/icons/waypoints';
import Wrench from '@lucide/svelte/icons/wrench';

const ICONS: Record<string, typeof Bot> = {
  agent: Bot,
  answer: ArrowRightFromLine,
  approve: UserCheck,
  choose: GitFork,
  each: Repeat,
  flow: Waypoints,
  http: Globe,
  mail: Mail,
  model: Sparkles,
  script: Code,
  shape: Shapes,
  stop: CircleStop,
  table: Database,
  text: FileText,
  tool: Wrench,
  wait: Clock,
};

export const iconOf = (kind: string) => ICONS[kind] ?? FileText;
