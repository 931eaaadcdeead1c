import { blob, index, integer, primaryKey, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';

/** Things with settings keep them as JSON that the contract's schemas check on the way in and out (entities.ts). */
export const body = () => text('body', { mode: 'json' }).notNull();

export const jobs = sqliteTable('jobs', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  place: text('place').notNull(),
  /** Of its clock, as the IANA list names it; empty means UTC. */
  zone: text('zone').notNull().default(''),
  createdAt: integer('created_at').notNull(),
  current: integer('current', { mode: 'boolean' }).notNull().default(false),
});

/** Units of the bench: how each is reached and what is read from it. */
export const units = sqliteTable('units', {
  serial: text('serial').primaryKey(),
  kind: text('kind').notNull(),
  name: text('name').notNull(),
  config: text('config', { mode: 'json' }),
});

/** Conversions with a name, of one job. */
export const scales = sqliteTable('scales', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  body: body(),
});

/** The drawer of sensors: it outlives jobs. */
export const sensors = sqliteTable('sensors', {
  serial: text('serial').primaryKey(),
  body: body(),
});

/** Papers of a sensor: certificates, data sheets. */
export const documents = sqliteTable(
  'documents',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    sensorSerial: text('sensor_serial')
      .notNull()
      .references(() => sensors.serial, { onDelete: 'cascade', onUpdate: 'cascade' }),
    name: text('name').notNull(),
    at: integer('at').notNull(),
    content: blob('content', { mode: 'buffer' }).notNull(),
  },
  (t) => [index('document_of_sensor').on(t.sensorSerial)],
);

/** How a page of a job is laid out, such as the columns of its grid of channels. */
export const layouts = sqliteTable(
  'layouts',
  {
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id, { onDelete: 'cascade' }),
    page: text('page').notNull(),
    body: body(),
  },
  (t) => [primaryKey({ columns: [t.jobId, t.page] })],
);

/** Hosts that rules may call, whatever the job. */
export const hosts = sqliteTable('hosts', {
  host: text('host').primaryKey(),
  by: text('by').notNull(),
  at: integer('at').notNull(),
});

export const channels = sqliteTable(
  'channels',
  {
    id: text('id').primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id, { onDelete: 'cascade' }),
    position: integer('position').notNull(),
    name: text('name').notNull(),
    body: body(),
  },
  (t) => [uniqueIndex('channel_name_in_job').on(t.jobId, t.name)],
);

export const calibrations = sqliteTable(
  'calibrations',
  {
    id: text('id').primaryKey(),
    channelId: text('channel_id').notNull(),
    at: integer('at').notNull(),
    body: body(),
  },
  (t) => [index('calibration_of_channel').on(t.channelId, t.at)],
);

export const plans = sqliteTable('plans', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  body: body(),
  /** Armed next. */
  current: integer('current', { mode: 'boolean' }).notNull().default(false),
});

/** Live views of a job, arranged on a grid. */
export const boards = sqliteTable('boards', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  body: body(),
});

/** Warnings and alarms that came, with what people did about them. */
export const alarms = sqliteTable(
  'alarms',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    jobId: text('job_id').notNull(),
    /** A channel's id, or “rule ” and a rule's. */
    source: text('source').notNull(),
    level: text('level', { enum: ['warning', 'alarm'] }).notNull(),
    says: text('says').notNull(),
    at: integer('at').notNull(),
    outAt: integer('out_at'),
    takenAt: integer('taken_at'),
    takenBy: text('taken_by'),
  },
  (t) => [index('alarm_time').on(t.jobId, t.at)],
);

/** Sources of alarms that are shelved for a time. */
export const shelves = sqliteTable('shelves', {
  source: text('source').primaryKey(),
  until: integer('until').notNull(),
  why: text('why').notNull(),
  by: text('by').notNull(),
});

export const rules = sqliteTable('rules', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id, { onDelete: 'cascade' }),
  position: integer('position').notNull(),
  body: body(),
});

/** One line a take file; the file itself holds the truth. */
export const takes = sqliteTable('takes', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id),
  number: integer('number').notNull(),
  name: text('name').notNull(),
  folder: text('folder').notNull().default(''),
  state: text('state', { enum: ['recording', 'complete', 'interrupted'] }).notNull(),
  startedAt: integer('started_at').notNull(),
  durationMs: integer('duration_ms').notNull(),
  /** What is found in it without opening it (contract/take-list.ts); null until it was looked at. */
  about: text('about', { mode: 'json' }),
  tags: text('tags', { mode: 'json' }).notNull().$type<string[]>().default([]),
  bytes: integer('bytes').notNull().default(0),
  /** Since when and by whom it lies in the bin. */
  binnedAt: integer('binned_at'),
  binnedBy: text('binned_by'),
  /** Since when its file is gone for good: its line stays, so that what names it still can. */
  goneAt: integer('gone_at'),
});

/** Small pictures of a take’s channels, made once from their envelopes. */
export const strips = sqliteTable(
  'strips',
  {
    takeId: text('take_id')
      .notNull()
      .references(() => takes.id, { onDelete: 'cascade' }),
    channel: text('channel').notNull(),
    content: blob('content', { mode: 'buffer' }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.takeId, t.channel] })],
);

/** Ways to look at takes, kept by name. */
export const drawings = sqliteTable(
  'drawings',
  {
    id: text('id').primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    body: body(),
  },
  (t) => [uniqueIndex('drawing_name_in_job').on(t.jobId, t.name)],
);

/** Takes as rows, results as columns, bound to a filter. */
export const series = sqliteTable('series', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  body: body(),
});

/** What people said of a row of a series: whether it counts, and why. Added to, never altered. */
export const seriesWords = sqliteTable(
  'series_words',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    seriesId: text('series_id')
      .notNull()
      .references(() => series.id, { onDelete: 'cascade' }),
    takeId: text('take_id').notNull(),
    at: integer('at').notNull(),
    by: text('by').notNull(),
    counts: integer('counts', { mode: 'boolean' }).notNull(),
    reason: text('reason').notNull(),
  },
  (t) => [index('words_of_series').on(t.seriesId)],
);

/** Studies without their takes, kept by name for all jobs. */
export const recipes = sqliteTable('recipes', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  kind: text('kind').notNull(),
  body: body(),
});

export const studies = sqliteTable('studies', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id),
  takeId: text('take_id')
    .notNull()
    .references(() => takes.id),
  position: integer('position').notNull(),
  kind: text('kind').notNull(),
  createdAt: integer('created_at').notNull(),
  body: body(),
});

/** Reports: their pages and what they are about. `version` rises with each change. */
export const reports = sqliteTable('reports', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id),
  position: integer('position').notNull(),
  version: integer('version').notNull(),
  body: body(),
  /** When it was taken away; it can be brought back. */
  goneAt: integer('gone_at'),
});

/** How takes are written as spreadsheets. */
export const spreadsheets = sqliteTable('spreadsheets', {
  id: text('id').primaryKey(),
  jobId: text('job_id')
    .notNull()
    .references(() => jobs.id),
  position: integer('position').notNull(),
  name: text('name').notNull(),
  body: body(),
});

/** Programs that may come in: of each only a hash of its secret is kept. */
export const tokens = sqliteTable('tokens', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  hash: text('hash').notNull().unique(),
  may: text('may', { enum: ['read', 'everything'] }).notNull(),
  by: text('by').notNull(),
  createdAt: integer('created_at').notNull(),
  usedAt: integer('used_at'),
});

/** What holds for all reports of the house, by what it is. */
export const house = sqliteTable('house', {
  key: text('key').primaryKey(),
  body: body(),
});

/** Every change of a set-up: what it was and what it became. Undo and “what changed since” both read it. */
export const revisions = sqliteTable(
  'revisions',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    at: integer('at').notNull(),
    by: text('by').notNull(),
    jobId: text('job_id').notNull(),
    kind: text('kind', {
      enum: ['channel', 'plan', 'rule', 'study', 'setup'],
    }).notNull(),
    subject: text('subject').notNull(),
    says: text('says').notNull(),
    before: text('before', { mode: 'json' }),
    after: text('after', { mode: 'json' }),
    undone: integer('undone', { mode: 'boolean' }).notNull().default(false),
    /** A new change was made while this one was undone: it is not made again. */
    gone: integer('gone', { mode: 'boolean' }).notNull().default(false),
  },
  (t) => [index('revision_subject').on(t.kind, t.subject)],
);

/** Pictures that people put beside their notes. */
export const pictures = sqliteTable('pictures', {
  id: integer('id').primaryKey({ autoIncrement: true }),
  type: text('type').notNull(),
  content: blob('content', { mode: 'buffer' }).notNull(),
});

export const logbook = sqliteTable(
  'logbook',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    at: integer('at').notNull(),
    jobId: text('job_id').notNull(),
    takeId: text('take_id'),
    kind: text('kind').notNull(),
    says: text('says').notNull(),
    by: text('by').notNull(),
    picture: integer('picture').references(() => pictures.id),
    /** SHA-256 over the entry and the hash before it: entries can be added, never altered. */
    hash: text('hash'),
  },
  (t) => [index('logbook_time').on(t.jobId, t.at)],
);

/** Pocket recorders of the house, by what they said of themselves last. */
export const recorders = sqliteTable('recorders', {
  serial: text('serial').primaryKey(),
  /** When it was seen last, ms since 1970. */
  seenAt: integer('seen_at').notNull(),
  body: body(),
});

/** Stations of the house: how they are reached, what they said of themselves last, and what is fetched of them. */
export const stations = sqliteTable('stations', {
  id: text('id').primaryKey(),
  body: body(),
});

/** Programmes of stations, as they were sent or kept; none is ever changed. */
export const programmes = sqliteTable(
  'programmes',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    station: text('station').notNull(),
    /** Counts up for each station. */
    number: integer('number').notNull(),
    at: integer('at').notNull(),
    by: text('by').notNull(),
    text: text('text').notNull(),
    /** When the station ran it first, ms since 1970. */
    ranAt: integer('ran_at'),
  },
  (t) => [index('programme_station').on(t.station, t.number)],
);

/** What is kept of radio: noise sources, tables of correction, sets of limits (of the house), results (of a job). */
export const radioKept = sqliteTable(
  'radio_kept',
  {
    id: text('id').primaryKey(),
    /** null: it outlives jobs. */
    jobId: text('job_id').references(() => jobs.id, { onDelete: 'cascade' }),
    kind: text('kind').notNull(),
    name: text('name').notNull(),
    at: integer('at').notNull(),
    body: body(),
    /** Long arrays of it: CBOR with typed arrays. */
    arrays: blob('arrays', { mode: 'buffer' }),
  },
  (t) => [index('radio_kept_of').on(t.kind, t.jobId)],
);
