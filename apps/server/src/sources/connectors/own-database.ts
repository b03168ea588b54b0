import { refused } from '../../problems';

export const ownDatabase = () =>
  refused(
    422,
    'own-database',
    'This is Cendra’s own database, which cannot be a source.',
    { pointer: '/settings' },
    'a database with data to report on',
  );
