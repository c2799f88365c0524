/* "npx drizzle-kit@0.31 generate --config drizzle.runs.config.ts" writes a migration after a change of the tables. */
export default {
  dialect: 'sqlite',
  schema: ['./src/record/tables.ts', './src/approvals/tables.ts'],
  out: './migrations/runs',
};
