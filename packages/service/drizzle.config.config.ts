/* A change of the tables becomes a migration with "drizzle-kit generate --config drizzle.config.config.ts" of drizzle-kit 0.31, run where drizzle-orm stands beside it. */
export default {
  dialect: 'sqlite',
  schema: [
    'src/conversations/tables.ts',
    'src/credentials/tables.ts',
    'src/documents/tables.ts',
    'src/endpoints/tables.ts',
    'src/entries/tables.ts',
    'src/filters/tables.ts',
    'src/flows/tables.ts',
    'src/keys/tables.ts',
    'src/models/tables.ts',
    'src/objects/tables.ts',
    'src/people/tables.ts',
    'src/servers/tables.ts',
    'src/tables/history-tables.ts',
    'src/tables/ledger-tables.ts',
    'src/tables/tables.ts',
    'src/trials/tables.ts',
    'src/workshop/tables.ts',
  ],
  out: './migrations/config',
};
