import { spawnSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));

/**
 * Installs the packages if they are missing or older than the lock file.
 *
 * @param isCompiledLater whether what packages compile is left to whoever calls, with `npm rebuild`
 * @returns whether anything was installed
 */
export function ensureDependencies({ isCompiledLater = false } = {}) {
  const installed = `${root}node_modules/.package-lock.json`;
  const isCurrent =
    // What was broken off may be there uncompiled.
    existsSync(`${root}node_modules/better-sqlite3/build/Release/better_sqlite3.node`) &&
    existsSync(installed) &&
    statSync(installed).mtimeMs >= statSync(`${root}package-lock.json`).mtimeMs;
  if (isCurrent) return false;
  console.log('Installing packages (the database engine may be compiled: this takes some minutes the first time) …');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error', ...(isCompiledLater ? ['--ignore-scripts'] : [])]);
  return true;
}

/** Runs a command in the project's folder and ends this process where it fails. */
export function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (error) console.error(`${command} could not be started: ${error.message}`);
  if (status !== 0) process.exit(status ?? 1);
}

/** Those of Debian's packages that are not on this machine. */
export function missingTools(tools) {
  return tools.filter((tool) => spawnSync('which', [tool]).status !== 0);
}

/** Installs Debian's packages, which only root may; returns whether that went well. */
export function installTools(tools) {
  if (process.getuid?.() !== 0) return false;
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const aptGet = (...args) => spawnSync('apt-get', args, { stdio: 'inherit', env }).status === 0;
  return aptGet('update', '-qq') && aptGet('install', '-y', '-qq', '--no-install-recommends', ...tools);
}
