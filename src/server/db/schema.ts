import { sql } from 'drizzle-orm';
import {
  type AnySQLiteColumn,
  index,
  integer,
  primaryKey,
  real,
  sqliteTable,
  text,
  uniqueIndex,
} from 'drizzle-orm/sqlite-core';
import { ROLES } from '@/core/access/rights';
import { DELIVERY_STATES } from '@/core/delivery/delivery-state';
import { LINE_UP_KINDS } from '@/core/lineup/line-up';
import { SECOND_STATES } from '@/core/live/second-log';
import {
  alarmDetailColumn,
  alarmSettingsColumn,
  assemblyOrderColumn,
  assemblyOutcomeColumn,
  audioFormatColumn,
  batchItemsColumn,
  batchWishColumn,
  conductColumn,
  coverColumn,
  errorColumn,
  fileReportColumn,
  filmTracksColumn,
  formatColumn,
  landingColumn,
  levelModeColumn,
  lineInputColumn,
  manifestColumn,
  nullTestColumn,
  outcomeColumn,
  passOrderColumn,
  passReadingColumn,
  predictionColumn,
  readingsColumn,
  reasonsColumn,
  recordColumn,
  recordingFactsColumn,
  reductionColumn,
  referenceColumn,
  resolvedFormatColumn,
  rowEdgesColumn,
  setRowsColumn,
  specColumn,
  tagsColumn,
  templateSettingsColumn,
  timeCodeColumn,
  treatmentColumn,
  trimColumn,
  verdictColumn,
} from './columns';

export const jobs = sqliteTable('jobs', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  createdAtMs: integer('created_at_ms').notNull(),
  /** Null while it is worked on. */
  archivedAtMs: integer('archived_at_ms'),
  /** How its deliveries are named; null for the usual way. */
  nameTemplate: text('name_template'),
  /** What its pages judge by; null for the usual spec. */
  specId: text('spec_id'),
  /** Deleted, to be restored within a week; null while it is there. */
  deletedAtMs: integer('deleted_at_ms'),
});

/** A file as taken in, stored under its hash and never changed. */
export const sources = sqliteTable('sources', {
  sha256: text('sha256').primaryKey(),
  sizeBytes: integer('size_bytes').notNull(),
  format: audioFormatColumn('format').notNull(),
  /** A channel layout chosen by hand; null where the file's own holds. */
  layoutId: text('layout_id'),
  /** Null where the source is stored here. */
  reference: referenceColumn('reference'),
  createdAtMs: integer('created_at_ms').notNull(),
});

/** What one engine version read of one source's bytes. */
export const sourceReports = sqliteTable(
  'source_reports',
  {
    sha256: text('sha256')
      .notNull()
      .references(() => sources.sha256),
    engineVersion: text('engine_version').notNull(),
    report: fileReportColumn('report').notNull(),
    measuredAtMs: integer('measured_at_ms').notNull(),
  },
  (table) => [primaryKey({ columns: [table.sha256, table.engineVersion] })],
);

export const programmes = sqliteTable(
  'programmes',
  {
    id: text('id').primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id),
    sourceSha256: text('source_sha256')
      .notNull()
      .references(() => sources.sha256),
    title: text('title').notNull(),
    fileName: text('file_name').notNull(),
    position: integer('position').notNull(),
    note: text('note').notNull().default(''),
    /** What it belongs to: the mix of a stem, the book of a chapter. Null where it stands alone. */
    groupName: text('group_name'),
    createdAtMs: integer('created_at_ms').notNull(),
    /** Taken out of its job, to be put back or not. Null while it is in it. */
    removedAtMs: integer('removed_at_ms'),
    /** The version that is set; null before any is, and where it is the newest. */
    treatmentId: text('treatment_id'),
    /** Where one stands among the edits; null before the first. */
    editId: integer('edit_id'),
    tags: tagsColumn('tags'),
    /** A picture that its files carry; it lies under its hash. */
    cover: coverColumn('cover'),
    /** The tracks that it was made of; null where it is none of a film, or the film itself. */
    film: filmTracksColumn('film'),
    /** Of its first frame, set by hand; null where that of its file holds. */
    timeCode: timeCodeColumn('time_code'),
  },
  (table) => [uniqueIndex('programmes_job_source').on(table.jobId, table.sourceSha256)],
);

/** Programmes of a job that belong together: a record, a book, stems of a mix. */
export const lineUps = sqliteTable(
  'line_ups',
  {
    id: text('id').primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id),
    kind: text('kind', { enum: LINE_UP_KINDS }).notNull(),
    name: text('name').notNull(),
    /** Null where it has none of its own. */
    specId: text('spec_id'),
    /** What holds for a record as a whole; null of older ones. */
    record: recordColumn('record'),
    /** Of stems: the programme that is their mix; null where its name tells. */
    mixId: text('mix_id').references(() => programmes.id),
    createdAtMs: integer('created_at_ms').notNull(),
    removedAtMs: integer('removed_at_ms'),
  },
  (table) => [index('line_ups_job').on(table.jobId)],
);

/** A programme in its place within a line-up. */
export const lineUpMembers = sqliteTable(
  'line_up_members',
  {
    lineUpId: text('line_up_id')
      .notNull()
      .references(() => lineUps.id),
    programmeId: text('programme_id')
      .notNull()
      .references(() => programmes.id),
    position: integer('position').notNull(),
    /** Silence until the next one begins; negative for an overlap. */
    gapSeconds: real('gap_seconds').notNull(),
  },
  (table) => [primaryKey({ columns: [table.lineUpId, table.programmeId] })],
);

/** How the stems of a line-up compare with their mix: the newest test. */
export const nullTests = sqliteTable('null_tests', {
  lineUpId: text('line_up_id')
    .primaryKey()
    .references(() => lineUps.id),
  outcome: nullTestColumn('outcome').notNull(),
  testedAtMs: integer('tested_at_ms').notNull(),
});

/** A line-up written as one: as a continuous file with its tracks marked, or as a file for each. */
export const assemblies = sqliteTable(
  'assemblies',
  {
    id: text('id').primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id),
    lineUpId: text('line_up_id')
      .notNull()
      .references(() => lineUps.id),
    /** A folder of its own, reserved from the start: nothing is ever overwritten. */
    folderName: text('folder_name').notNull(),
    /** Everything that it is written from, as it was when it was asked for. */
    order: assemblyOrderColumn('order').notNull(),
    state: text('state', { enum: DELIVERY_STATES }).notNull(),
    /** What was written; null until everything is there. */
    outcome: assemblyOutcomeColumn('outcome'),
    createdAtMs: integer('created_at_ms').notNull(),
    writtenAtMs: integer('written_at_ms'),
  },
  (table) => [
    uniqueIndex('assemblies_job_folder').on(table.jobId, table.folderName),
    // However often it is asked for: of a line-up one is being written.
    uniqueIndex('assemblies_one_open').on(table.lineUpId).where(sql`state = 'open'`),
  ],
);

/** Something that was asked of many programmes at once; a task works through them. */
export const batches = sqliteTable(
  'batches',
  {
    id: text('id').primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id),
    wish: batchWishColumn('wish').notNull(),
    /** In order, each with what has come of it. */
    items: batchItemsColumn('items').notNull(),
    createdAtMs: integer('created_at_ms').notNull(),
  },
  (table) => [index('batches_job').on(table.jobId)],
);

/** Numbered versions. The last one may still change until it is named, heard, or something has been written from it. */
export const treatments = sqliteTable(
  'treatments',
  {
    id: text('id').primaryKey(),
    programmeId: text('programme_id')
      .notNull()
      .references(() => programmes.id),
    version: integer('version').notNull(),
    treatment: treatmentColumn('treatment').notNull(),
    /** Given by a person; empty where there is none. */
    name: text('name').notNull().default(''),
    heardAtMs: integer('heard_at_ms'),
    /** What a limiter in it was forecast to leave; null where there is none, or nobody has asked. */
    predicted: readingsColumn('predicted'),
    updatedAtMs: integer('updated_at_ms').notNull(),
  },
  (table) => [uniqueIndex('treatments_programme_version').on(table.programmeId, table.version)],
);

/** What a programme's treatment was, edit after edit, to be undone and done again. */
export const treatmentEdits = sqliteTable(
  'treatment_edits',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    programmeId: text('programme_id')
      .notNull()
      .references(() => programmes.id),
    treatment: treatmentColumn('treatment').notNull(),
    createdAtMs: integer('created_at_ms').notNull(),
  },
  (table) => [index('treatment_edits_programme').on(table.programmeId)],
);

/** Places and spans of a programme that a person has kept, in frames of its source. */
export const markers = sqliteTable(
  'markers',
  {
    id: text('id').primaryKey(),
    programmeId: text('programme_id')
      .notNull()
      .references(() => programmes.id),
    startFrame: integer('start_frame').notNull(),
    /** Null of a place. */
    endFrame: integer('end_frame'),
    name: text('name').notNull(),
    createdAtMs: integer('created_at_ms').notNull(),
  },
  (table) => [index('markers_programme').on(table.programmeId)],
);

/** Every version of every spec. One that was changed is there as it was. */
export const specs = sqliteTable(
  'specs',
  {
    id: text('id').notNull(),
    version: integer('version').notNull(),
    spec: specColumn('spec').notNull(),
    isBuiltIn: integer('is_built_in', { mode: 'boolean' }).notNull(),
    createdAtMs: integer('created_at_ms').notNull(),
    /** Put away by its owner: it is not offered any more. */
    retiredAtMs: integer('retired_at_ms'),
  },
  (table) => [primaryKey({ columns: [table.id, table.version] })],
);

/** Rows of the hand-over sheet: what is to be handed over, whether it has been written or not. */
export const deliveryRows = sqliteTable(
  'delivery_rows',
  {
    id: text('id').primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id),
    programmeId: text('programme_id')
      .notNull()
      .references(() => programmes.id),
    specId: text('spec_id').notNull(),
    format: formatColumn('format').notNull(),
    levelMode: levelModeColumn('level_mode').notNull(),
    /** What of the programme is handed over by itself; null for what its treatment keeps. */
    trim: trimColumn('trim'),
    /** What its edges are in place of the treatment's own; null where they are those. */
    edges: rowEdgesColumn('edges'),
    /** Where it is sent once it is written and verified; null where it is kept here. */
    receiverId: text('receiver_id').references((): AnySQLiteColumn => receivers.id),
    position: integer('position').notNull(),
    createdAtMs: integer('created_at_ms').notNull(),
    removedAtMs: integer('removed_at_ms'),
    /** What it will be, and a key of what that was worked out from. */
    prediction: predictionColumn('prediction'),
    predictionKey: text('prediction_key'),
  },
  (table) => [index('delivery_rows_job').on(table.jobId)],
);

/** Templates: rows without a programme, to be added to any, and what else is to be set. */
export const deliverySets = sqliteTable('delivery_sets', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  rows: setRowsColumn('rows').notNull(),
  /** Steps of the treatment, and names; null of older ones, which have rows only. */
  settings: templateSettingsColumn('settings'),
  createdAtMs: integer('created_at_ms').notNull(),
});

export const deliveries = sqliteTable(
  'deliveries',
  {
    id: text('id').primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id),
    programmeId: text('programme_id')
      .notNull()
      .references(() => programmes.id),
    treatmentId: text('treatment_id')
      .notNull()
      .references(() => treatments.id),
    /** What it was made from; null of older ones that are not written yet, which are made from what their programme has. */
    sourceSha256: text('source_sha256'),
    /** The spec as it was when the delivery was made. */
    spec: specColumn('spec').notNull(),
    /** Reserved when the delivery is made, so that nothing is ever overwritten. */
    fileName: text('file_name').notNull(),
    predicted: readingsColumn('predicted').notNull(),
    /** What was measured from the written file; null until it is there whole. */
    report: fileReportColumn('report'),
    verdict: verdictColumn('verdict'),
    /** What its limiter took; null where there was none. */
    reduction: reductionColumn('reduction'),
    createdAtMs: integer('created_at_ms').notNull(),
    writtenAtMs: integer('written_at_ms'),
    state: text('state', { enum: DELIVERY_STATES }).notNull().default('open'),
    /** One that misses, and that is thrown away once this one is written; null of most. */
    replacesId: text('replaces_id').references((): AnySQLiteColumn => deliveries.id),
    /** The row of the sheet that it was written for; null of older ones. */
    rowId: text('row_id').references(() => deliveryRows.id),
    /** Null of older ones: WAV of 24 bits. */
    format: resolvedFormatColumn('format'),
    /** What is done for it: the version's own steps, with the levels and the format of this delivery. Null of older ones. */
    treatment: treatmentColumn('treatment'),
    landing: landingColumn('landing'),
    /** What was written, and what that took. */
    outcome: outcomeColumn('outcome'),
    /** Why a file that misses is handed over all the same. */
    acceptedReason: text('accepted_reason'),
    /** Who has said so, where people sign in; null elsewhere. */
    acceptedBy: text('accepted_by'),
    /** Who has approved the file, and when; null where nobody has. */
    approvedBy: text('approved_by'),
    approvedAtMs: integer('approved_at_ms'),
    /** Its file was thrown away. */
    discardedAtMs: integer('discarded_at_ms'),
  },
  (table) => [
    uniqueIndex('deliveries_job_file').on(table.jobId, table.fileName),
    // However often it is asked for: a row has one file being written.
    uniqueIndex('deliveries_one_open').on(table.rowId).where(sql`state = 'open'`),
  ],
);

/** Where deliveries go; the kind is that of a transport. */
export const receivers = sqliteTable('receivers', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  kind: text('kind').notNull(),
  /** An address or a folder; one that begins with `/api/` is this app's own, and one of a built-in folder is the data folder's. */
  address: text('address').notNull(),
  /** Signs what is sent; never shown, logged or sent itself. Empty where there is none. */
  secret: text('secret').notNull(),
  isBuiltIn: integer('is_built_in', { mode: 'boolean' }).notNull(),
  createdAtMs: integer('created_at_ms').notNull(),
  removedAtMs: integer('removed_at_ms'),
});

export const TRANSFER_STATES = ['open', 'checking', 'accepted', 'refused'] as const;

/** A delivery on its way to a receiver, and what came of it. */
export const transfers = sqliteTable(
  'transfers',
  {
    id: text('id').primaryKey(),
    deliveryId: text('delivery_id')
      .notNull()
      .references(() => deliveries.id),
    receiverId: text('receiver_id')
      .notNull()
      .references(() => receivers.id),
    /** Counts from 1; another begins only after a refusal. */
    round: integer('round').notNull(),
    /** Says to its receiver which transfer this is, however often it arrives. */
    key: text('key').notNull(),
    /** Whoever has it may fetch the files, and nothing else. */
    fetchToken: text('fetch_token').notNull(),
    state: text('state', { enum: TRANSFER_STATES }).notNull(),
    reasons: reasonsColumn('reasons').notNull(),
    /** Since the last one that got through. */
    failedTries: integer('failed_tries').notNull(),
    createdAtMs: integer('created_at_ms').notNull(),
    /** When it was there whole. */
    receivedAtMs: integer('received_at_ms'),
    endedAtMs: integer('ended_at_ms'),
  },
  (table) => [
    uniqueIndex('transfers_round').on(table.deliveryId, table.receiverId, table.round),
    uniqueIndex('transfers_key').on(table.key),
  ],
);

/** What happened on the way, line by line. */
export const transferLog = sqliteTable(
  'transfer_log',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    transferId: text('transfer_id')
      .notNull()
      .references(() => transfers.id),
    atMs: integer('at_ms').notNull(),
    text: text('text').notNull(),
  },
  (table) => [index('transfer_log_transfer').on(table.transferId)],
);

/** The simulated intakes: what stands at the other end of the built-in receivers. */
export const simulatedIntakes = sqliteTable('simulated_intakes', {
  /** As the receiver that leads to it. */
  id: text('id').primaryKey(),
  secret: text('secret').notNull(),
  conduct: conductColumn('conduct').notNull(),
});

/** What a simulated intake has been sent. */
export const intakeItems = sqliteTable(
  'intake_items',
  {
    id: text('id').primaryKey(),
    intakeId: text('intake_id')
      .notNull()
      .references(() => simulatedIntakes.id),
    key: text('key').notNull(),
    manifest: manifestColumn('manifest').notNull(),
    state: text('state', { enum: ['received', 'accepted', 'refused'] }).notNull(),
    reasons: reasonsColumn('reasons').notNull(),
    receivedAtMs: integer('received_at_ms').notNull(),
    answeredAtMs: integer('answered_at_ms'),
  },
  (table) => [uniqueIndex('intake_items_key').on(table.intakeId, table.key)],
);

/** Lines: sound that comes from outside in real time. */
export const lines = sqliteTable(
  'lines',
  {
    id: text('id').primaryKey(),
    /** That its recordings are taken into. */
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id),
    name: text('name').notNull(),
    input: lineInputColumn('input').notNull(),
    /** Null for the spec of its job. */
    specId: text('spec_id'),
    alarms: alarmSettingsColumn('alarms').notNull(),
    /** Length of the programme that it carries; null where nobody has said. */
    plannedSeconds: real('planned_seconds'),
    /** It is heard, also after a restart. */
    isOn: integer('is_on', { mode: 'boolean' }).notNull(),
    createdAtMs: integer('created_at_ms').notNull(),
    removedAtMs: integer('removed_at_ms'),
  },
  (table) => [index('lines_job').on(table.jobId)],
);

/** What a line read in each second, for days. */
export const lineSeconds = sqliteTable(
  'line_seconds',
  {
    lineId: text('line_id')
      .notNull()
      .references(() => lines.id),
    /** Since 1970, in seconds. */
    atS: integer('at_s').notNull(),
    state: text('state', { enum: SECOND_STATES }).notNull(),
    momentaryLufs: real('momentary_lufs'),
    shortTermLufs: real('short_term_lufs'),
    integratedLufs: real('integrated_lufs'),
    /** Greatest of the second and of all channels. */
    truePeakDbtp: real('true_peak_dbtp'),
  },
  (table) => [primaryKey({ columns: [table.lineId, table.atS] })],
);

/** What happened on a line: alarms, and what a person has done. */
export const lineEvents = sqliteTable(
  'line_events',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    lineId: text('line_id')
      .notNull()
      .references(() => lines.id),
    kind: text('kind').notNull(),
    startMs: integer('start_ms').notNull(),
    /** Null while it goes on. */
    endMs: integer('end_ms'),
    detail: alarmDetailColumn('detail').notNull(),
    /** As it was said when it happened. */
    words: text('words').notNull(),
  },
  (table) => [index('line_events_line').on(table.lineId, table.startMs)],
);

export const RECORDING_STATES = ['open', 'recorded', 'taken-in', 'failed'] as const;

/** Lines that are recorded, and what became of it. */
export const recordings = sqliteTable(
  'recordings',
  {
    id: text('id').primaryKey(),
    lineId: text('line_id')
      .notNull()
      .references(() => lines.id),
    jobId: text('job_id')
      .notNull()
      .references(() => jobs.id),
    fileName: text('file_name').notNull(),
    state: text('state', { enum: RECORDING_STATES }).notNull(),
    /** When its first frame sounded; until that is known, when it was asked for. */
    startMs: integer('start_ms').notNull(),
    /** Null before anything was told of it. */
    facts: recordingFactsColumn('facts'),
    /** Why it ended by itself, or could not be taken in. */
    error: errorColumn('error'),
    programmeId: text('programme_id').references(() => programmes.id),
  },
  (table) => [
    index('recordings_line').on(table.lineId),
    // However often it is asked for: of a line one recording is under way.
    uniqueIndex('recordings_one_open').on(table.lineId).where(sql`state = 'open'`),
  ],
);

/** Programmes that were sent through outboard gear, and what came back. */
export const outboardPasses = sqliteTable(
  'outboard_passes',
  {
    id: text('id').primaryKey(),
    programmeId: text('programme_id')
      .notNull()
      .references(() => programmes.id),
    /** Among those of its programme, from 1 on. */
    number: integer('number').notNull(),
    order: passOrderColumn('order').notNull(),
    /** What was found; null until that is done. */
    reading: passReadingColumn('reading'),
    /** What came back, as a programme; null until then. */
    passProgrammeId: text('pass_programme_id').references(() => programmes.id),
    recordedAtMs: integer('recorded_at_ms').notNull(),
  },
  (table) => [uniqueIndex('outboard_passes_programme').on(table.programmeId, table.number)],
);

/** Who may use the app from a network; without any, only this machine does. */
export const people = sqliteTable(
  'people',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    role: text('role', { enum: ROLES }).notNull(),
    /** By Argon2id, with its salt and its cost. */
    passphraseHash: text('passphrase_hash').notNull(),
    createdAtMs: integer('created_at_ms').notNull(),
    removedAtMs: integer('removed_at_ms'),
  },
  // A name is free again once its person was removed.
  (table) => [uniqueIndex('people_name').on(sql`lower(${table.name})`).where(sql`removed_at_ms is null`)],
);

/** Browsers that somebody has signed in with. */
export const sessions = sqliteTable(
  'sessions',
  {
    id: text('id').primaryKey(),
    personId: text('person_id')
      .notNull()
      .references(() => people.id),
    /** Of what the browser shows; what that is, only the browser knows. */
    tokenHash: text('token_hash').notNull(),
    browser: text('browser').notNull(),
    address: text('address').notNull(),
    createdAtMs: integer('created_at_ms').notNull(),
    usedAtMs: integer('used_at_ms').notNull(),
  },
  (table) => [uniqueIndex('sessions_token').on(table.tokenHash), index('sessions_person').on(table.personId)],
);

/** What programs bring files with, to any job or to one. */
export const intakeTokens = sqliteTable(
  'intake_tokens',
  {
    id: text('id').primaryKey(),
    name: text('name').notNull(),
    tokenHash: text('token_hash').notNull(),
    jobId: text('job_id').references(() => jobs.id),
    createdAtMs: integer('created_at_ms').notNull(),
    usedAtMs: integer('used_at_ms'),
    removedAtMs: integer('removed_at_ms'),
  },
  (table) => [uniqueIndex('intake_tokens_token').on(table.tokenHash)],
);

/** Who did what, and when: nothing in it is ever changed. */
export const auditLog = sqliteTable(
  'audit_log',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    atMs: integer('at_ms').notNull(),
    /** As they were called then; empty of who has not signed in. */
    who: text('who').notNull(),
    what: text('what').notNull(),
    /** What it was done to: an id, a name, or an address; empty where there is none. */
    subject: text('subject').notNull(),
  },
  (table) => [index('audit_log_at').on(table.atMs)],
);

export const TASK_KINDS = [
  'measure',
  'render',
  'assemble',
  'null-test',
  'batch',
  'send',
  'check',
  'copy-out',
  'align',
  'tracks',
  'rendering',
] as const;
export const TASK_STATES = ['queued', 'running', 'done', 'failed', 'cancelled'] as const;
export type TaskKind = (typeof TASK_KINDS)[number];
export type TaskState = (typeof TASK_STATES)[number];

export const tasks = sqliteTable(
  'tasks',
  {
    id: text('id').primaryKey(),
    kind: text('kind', { enum: TASK_KINDS }).notNull(),
    /** SHA-256 of the source to measure; id of the delivery to render, of the record to assemble, of the line-up whose stems are tested, of the batch, of the transfer, of what a simulated intake checks, or of the job whose files are copied out; of tracks to put together, the id of their film's programme and the tracks; of a rendering, that of the programme whose file has the definition, and which it is. */
    subjectId: text('subject_id').notNull(),
    state: text('state', { enum: TASK_STATES }).notNull(),
    attempts: integer('attempts').notNull(),
    fraction: real('fraction').notNull(),
    timesRealTime: real('times_real_time'),
    error: errorColumn('error'),
    createdAtMs: integer('created_at_ms').notNull(),
    /** Not to be taken up before; null for at once. */
    notBeforeMs: integer('not_before_ms'),
    heartbeatAtMs: integer('heartbeat_at_ms'),
    finishedAtMs: integer('finished_at_ms'),
  },
  (table) => [
    index('tasks_subject').on(table.kind, table.subjectId),
    uniqueIndex('tasks_one_live').on(table.kind, table.subjectId).where(sql`state in ('queued', 'running')`),
  ],
);

export type Task = typeof tasks.$inferSelect;
