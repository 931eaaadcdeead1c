import { defineConfig } from 'drizzle-kit';

export default defineConfig({
  dialect: 'sqlite',
  schema: ['./src/store/tables.ts', './src/store/modal-tables.ts'],
  out: './drizzle',
});
