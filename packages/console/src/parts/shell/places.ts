import BookOpen from '@lucide/svelte/icons/book-open';
import Brain from '@lucide/svelte/icons/brain';
import ChartColumn from '@lucide/svelte/icons/chart-column';
import Database from '@lucide/svelte/icons/database';
import FolderSync from '@lucide/svelte/icons/folder-sync';
import KeyRound from '@lucide/svelte/icons/key-round';
import LayoutDashboard from '@lucide/svelte/icons/layout-dashboard';
import LockKeyhole from '@lucide/svelte/icons/lock-keyhole';
import Mail from '@lucide/svelte/icons/mail';
import MessageSquare from '@lucide/svelte/icons/message-square';
import Plug from '@lucide/svelte/icons/plug';
import Radio from '@lucide/svelte/icons/radio';
import Route from '@lucide/svelte/icons/route';
import Sparkles from '@lucide/svelte/icons/sparkles';
import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
import UserCheck from '@lucide/svelte/icons/user-check';
import Users from '@lucide/svelte/icons/users';
import Waypoints from '@lucide/svelte/icons/waypoints';

export type IconComponent = typeof Route;

/** A page of the navigation. */
export interface PagePlace {
  to: string;
  label: string;
  icon: IconComponent;
  /** The page of the documentation about it, with an anchor if it has a section. */
  docs: string;
}

/** The navigation, grouped by task, in its order. */
export const NAVIGATION: readonly { name: string; places: readonly PagePlace[] }[] = [
  { name: '', places: [{ to: '/', label: 'Overview', icon: LayoutDashboard, docs: 'concepts' }] },
  {
    name: 'Build',
    places: [
      { to: '/flows', label: 'Flows', icon: Waypoints, docs: 'concepts#flows' },
      { to: '/chat', label: 'Chat', icon: MessageSquare, docs: 'agents' },
      { to: '/tables', label: 'Tables', icon: Database, docs: 'concepts#tables' },
    ],
  },
  {
    name: 'Serve',
    places: [
      { to: '/endpoints', label: 'Endpoints', icon: Radio, docs: 'concepts#endpoints-and-keys' },
      { to: '/keys', label: 'Keys', icon: KeyRound, docs: 'concepts#endpoints-and-keys' },
    ],
  },
  {
    name: 'Connect',
    places: [
      { to: '/servers', label: 'Tool servers', icon: Plug, docs: 'servers' },
      { to: '/models', label: 'Models', icon: Sparkles, docs: 'agents#model-connections' },
      { to: '/credentials', label: 'Credentials', icon: LockKeyhole, docs: 'servers#credentials' },
    ],
  },
  {
    name: 'Observe',
    places: [
      { to: '/runs', label: 'Runs', icon: Route, docs: 'traces' },
      { to: '/problems', label: 'Problems', icon: TriangleAlert, docs: 'traces#problems' },
      { to: '/metrics', label: 'Metrics', icon: ChartColumn, docs: 'traces#metrics' },
      { to: '/approvals', label: 'Approvals', icon: UserCheck, docs: 'agents#approvals' },
      { to: '/memory', label: 'Memory', icon: Brain, docs: 'agents#memory' },
    ],
  },
  {
    name: 'Administer',
    places: [
      { to: '/workspace', label: 'Workspace', icon: FolderSync, docs: 'production#files' },
      { to: '/people', label: 'People', icon: Users, docs: 'roles' },
      { to: '/mailbox', label: 'Mailbox', icon: Mail, docs: 'production#mail' },
      { to: '/docs', label: 'Docs', icon: BookOpen, docs: 'concepts' },
    ],
  },
];

/** All pages of the navigation, in its order. */
export const PLACES: readonly PagePlace[] = NAVIGATION.flatMap(({ places }) => places);

/** Returns the page of the navigation that an address belongs to. */
export const placeOf = (path: string): PagePlace =>
  PLACES.find(({ to }) => path === to || (to !== '/' && path.startsWith(`${to}/`))) ?? PLACES[0]!;
