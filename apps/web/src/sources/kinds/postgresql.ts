import type { PostgresqlSettings } from '../../api';
import type { SourceKind } from './source-kind';

export const postgresqlKind: SourceKind<PostgresqlSettings> = {
  kind: 'postgresql',
  word: 'PostgreSQL',
  secretWord: 'Password',
  entries: [
    { name: 'host', label: 'Host', input: { required: true } },
    { name: 'port', label: 'Port', input: { required: true, inputMode: 'numeric', pattern: '[0-9]{1,5}' } },
    { name: 'database', label: 'Database', input: { required: true } },
    { name: 'user', label: 'User', input: { required: true, autoComplete: 'off' } },
    {
      name: 'tls',
      label: 'TLS',
      options: [
        ['verified', 'verified: certificate checked'],
        ['required', 'required: encrypted, certificate not checked'],
        ['off', 'off'],
      ],
    },
  ],
  begins: { host: '', port: '5432', database: '', user: '', tls: 'verified' },
  entered: ({ host, port, database, user, tls }) => ({ host, port: String(port), database, user, tls }),
  settings: ({ host = '', port, database = '', user = '', tls }) => ({
    host,
    port: Number(port),
    database,
    user,
    tls: tls as PostgresqlSettings['tls'],
  }),
  place: ({ database, host, port }) => `${database} at ${host}:${port}`,
  description: ({ user, database, host, port, tls }) => `${user} on ${database} at ${host}:${port}, TLS ${tls}`,
};
