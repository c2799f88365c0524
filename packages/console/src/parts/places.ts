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

/** The pages of the navigation, in its order. */
export const PLACES: readonly { to: string; label: string; icon: IconComponent }[] = [
  { to: '/', label: 'Overview', icon: LayoutDashboard },
  { to: '/flows', label: 'Flows', icon: Waypoints },
  { to: '/chat', label: 'Chat', icon: MessageSquare },
  { to: '/runs', label: 'Runs', icon: Route },
  { to: '/problems', label: 'Problems', icon: TriangleAlert },
  { to: '/metrics', label: 'Metrics', icon: ChartColumn },
  { to: '/approvals', label: 'Approvals', icon: UserCheck },
  { to: '/memory', label: 'Memory', icon: Brain },
  { to: '/endpoints', label: 'Endpoints', icon: Radio },
  { to: '/keys', label: 'Keys', icon: KeyRound },
  { to: '/servers', label: 'Tool servers', icon: Plug },
  { to: '/models', label: 'Models', icon: Sparkles },
  { to: '/credentials', label: 'Credentials', icon: LockKeyhole },
  { to: '/tables', label: 'Tables', icon: Database },
  { to: '/mailbox', label: 'Mailbox', icon: Mail },
  { to: '/workspace', label: 'Workspace', icon: FolderSync },
  { to: '/people', label: 'People', icon: Users },
];
