import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fail, say } from './prepare.mjs';

const PLACES = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];
const find = () => [process.env.CHROMIUM, ...PLACES].find((path) => path && existsSync(path));

/** The browser for the tests of the console: the one that is there, else Debian's where it may be installed. */
export function chromium() {
  const found = find();
  if (found) return found;
  const mayInstall = process.getuid?.() === 0 && existsSync('/usr/bin/apt-get');
  if (mayInstall) {
    say("installing Chromium from Debian's packages …");
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    spawnSync('apt-get', ['update', '-qq'], { stdio: ['ignore', 2, 2], env });
    spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium'], {
      stdio: ['ignore', 2, 2],
      env,
    });
  }
  return (
    find() ??
    fail(
      'The tests of the console need Chromium. Install it with "sudo apt-get install chromium", or name one with CHROMIUM=/path/to/chromium.',
    )
  );
}
