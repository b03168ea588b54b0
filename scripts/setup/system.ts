import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { say, SetupError } from './say';

const isRoot = process.getuid?.() === 0;

/** The folder of PostgreSQL's server programs; installs the Debian package when there is none. */
export function ensurePostgresql(): string {
  const found = findPostgresql();
  if (found) return found;
  install('postgresql-15', 'the database server', () => {
    // Debian would otherwise start a cluster of the system's own.
    shell(
      'mkdir -p /etc/postgresql-common && { grep -qs "^create_main_cluster" /etc/postgresql-common/createcluster.conf || echo "create_main_cluster = false" >> /etc/postgresql-common/createcluster.conf; }',
    );
  });
  const installed = findPostgresql();
  if (!installed)
    throw new SetupError(
      'Installing PostgreSQL',
      'its programs are not where Debian puts them.',
      'install the package postgresql-15 by hand and run the same command again.',
    );
  return installed;
}

function findPostgresql(): string | undefined {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base)
    ? readdirSync(base)
        .filter((each) => Number(each) >= 14)
        .sort((a, b) => Number(b) - Number(a))
    : [];
  return versions.map((each) => `${base}/${each}/bin`).find((each) => existsSync(`${each}/initdb`));
}

export function ensureChromium(): string {
  const path = '/usr/bin/chromium';
  if (!existsSync(path)) install('chromium', 'the browser for the tests');
  return path;
}

/** What reads the text of a PDF, for tests that open what was taken away. */
export function ensurePdfReader(): void {
  if (!existsSync('/usr/bin/pdftotext')) install('poppler-utils', 'the reader of PDF for the tests');
}

function install(name: string, what: string, before?: () => void): void {
  say(`Installing ${what} (Debian package ${name}) …`);
  before?.();
  const env = 'DEBIAN_FRONTEND=noninteractive';
  const ok =
    shell(`${env} apt-get install -y --no-install-recommends ${name}`) ||
    (shell('apt-get update') && shell(`${env} apt-get install -y --no-install-recommends ${name}`));
  if (!ok)
    throw new SetupError(
      `Installing ${name}`,
      'apt-get did not succeed; its message stands above.',
      `check that apt-get reaches its registry and that you are root or may sudo, or install ${name} by hand.`,
    );
}

/** Runs a command with the rights to install; its output is shown only when it fails. */
function shell(command: string): boolean {
  const words = isRoot ? ['sh', '-c', command] : ['sudo', 'sh', '-c', command];
  const done = spawnSync(words[0] ?? 'sh', words.slice(1), { encoding: 'utf8', stdio: ['inherit', 'pipe', 'pipe'], maxBuffer: 1e8 });
  if (done.status !== 0) process.stderr.write(`${done.stdout ?? ''}${done.stderr ?? ''}${done.error?.message ?? ''}\n`);
  return done.status === 0;
}
