import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import { body, jobs } from './tables';

/** Structures as points and lines, with the sensors that sit on them. */
export const wireframes = sqliteTable('wireframes', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  body: body(),
});

/** Modal analyses: their sets with sentences, picks and modes; what is long of them lies in files. */
export const modal = sqliteTable('modal', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  createdAt: integer('created_at').notNull(),
  body: body(),
});
