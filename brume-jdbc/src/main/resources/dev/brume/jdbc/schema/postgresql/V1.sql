-- Brume, schema 1, PostgreSQL 13 or later.
-- All instants are UTC. From 0.1.0 on scripts only add: versions N and N-1 of the software work side by side.

-- One row: the lock point of definers, and the epoch, which rises when the database turns out to be an older copy.
create table brume_cluster (
    id         smallint not null primary key check (id = 1),
    epoch      bigint not null,
    created_at timestamptz not null,
    tzdata     varchar(50),
    -- Which history of itself the database server was in when this was noted; another one means that it may be an older copy.
    timeline   varchar(40)
);
insert into brume_cluster (id, epoch, created_at, timeline)
    values (1, 0, clock_timestamp(), substr(pg_walfile_name(pg_current_wal_insert_lsn()), 1, 8));

-- Fresh run ids, and fence numbers that rise with every lease.
create sequence brume_run_number;
create sequence brume_fence_number;

create function brume_row_closed() returns trigger language plpgsql as $$
begin
    raise exception '% is insert-only: a row never %', tg_table_name, case tg_op when 'UPDATE' then 'changes' else 'goes' end;
end $$;

-- Rows of these leave only by retention, which says so to its own transaction; a role that may not delete cannot either way.
-- With an argument: a month of them, which may also go as a whole.
create function brume_row_kept() returns trigger language plpgsql as $$
begin
    if (tg_op = 'DELETE' or tg_nargs > 0) and current_setting('brume.retention', true) = 'on' then
        return null;
    end if;
    raise exception '% is insert-only: retention alone removes rows', tg_table_name;
end $$;

-- One row for each life of an instance. state: OPEN -> DRAINING -> ENDED, or LAPSED -> ENDED when others took over.
create table brume_session (
    id           uuid not null primary key,
    instance     varchar(100) not null,
    host         varchar(255) not null,
    pid          bigint not null,
    lanes        varchar(2000) not null,
    software     varchar(100) not null,
    tzdata       varchar(50) not null,
    epoch        bigint not null,
    state        varchar(10) not null,
    opened_at    timestamptz not null,
    renewed_at   timestamptz not null,
    lease_until  timestamptz not null,
    ended_at     timestamptz,
    draining_at  timestamptz,
    labels       varchar(2000),
    -- What an instance says of itself: its handlers, one a line, and by how many milliseconds its wall clock is ahead.
    handlers     text,
    ahead_millis bigint default 0 not null,
    -- How its process was when it was renewed last: heap and its limit in megabytes, load of its machine, processors.
    vitals       varchar(100)
) with (fillfactor = 50);

-- Lives that ended long ago; kept as long as the ledger, since they say who was there.
create table brume_past_session (
    id           uuid not null primary key,
    instance     varchar(100) not null,
    host         varchar(255) not null,
    pid          bigint not null,
    lanes        varchar(2000) not null,
    software     varchar(100) not null,
    tzdata       varchar(50) not null,
    epoch        bigint not null,
    state        varchar(10) not null,
    opened_at    timestamptz not null,
    renewed_at   timestamptz not null,
    lease_until  timestamptz not null,
    ended_at     timestamptz,
    draining_at  timestamptz,
    labels       varchar(2000),
    handlers     text,
    ahead_millis bigint not null,
    vitals       varchar(100)
);

-- A job: its cursor, its lock point, and its gate of cap places. live_key is null once it is dropped.
create table brume_job (
    id            bigint generated always as identity primary key,
    namespace     varchar(100) not null,
    name          varchar(100) not null,
    live_key      varchar(201) collate "C" unique,
    version       integer not null,
    source        varchar(500) not null,
    cursor_at     timestamptz not null,
    next_at       timestamptz,
    cap           integer not null,
    -- The run that was planned last, and the newest that is known to have ended. As long as a job is not crowded, its newest run alone
    -- can be live: places are counted from live runs, not kept here, so that most ends leave this row alone.
    newest_run    bigint,
    ended_run     bigint,
    crowded       smallint default 0 not null,
    dropped_at    timestamptz,
    -- When the application was built whose definition is in force; empty if it is not by its build that definitions are ordered.
    built_at      timestamptz,
    -- A schedule that goes by the ends of runs is due at end_due_at, or waits for the end of end_run.
    end_due_at    timestamptz,
    end_run       bigint,
    -- Which format of definitions a reader must know; jobs beyond its own an older instance leaves to newer ones.
    format        smallint default 1 not null,
    -- Whose workers run it: those who serve the lane divide its jobs among them by their ids, modulo 64.
    lane          varchar(100) not null,
    -- A paused job (1, or 2 if nothing is made up for) owes nothing for now: next_at is when the pause ends, if it does by itself.
    -- turn_at: then, or when the next pause begins. Never is next_at later.
    paused        smallint default 0 not null,
    turn_at       timestamptz,
    -- Bounds that the job states for what the ledger keeps of it.
    keep_seconds  bigint,
    keep_runs     bigint,
    -- 1 if it states a deadline, or how long it may go without a success.
    watched       smallint
) with (fillfactor = 70, autovacuum_vacuum_scale_factor = 0.2, autovacuum_vacuum_threshold = 500,
        autovacuum_vacuum_cost_delay = 0, autovacuum_analyze_scale_factor = 0.5);
create index brume_job_watched on brume_job (id) where watched is not null;
create index brume_job_due on brume_job (next_at) where next_at is not null;

-- Definitions, as JSON; never changed once written.
create table brume_definition (
    job_id     bigint not null,
    number     integer not null,
    definition text not null,
    source     varchar(500) not null,
    defined_at timestamptz not null,
    -- pins: as JSON, from when limits count and which versions of calendars a version of a definition goes by.
    pins       text,
    tzdata     varchar(50),
    id         bigint generated always as identity,
    primary key (job_id, number)
);
create unique index brume_definition_number on brume_definition (id);

-- Versions of definitions and of calendars never change and never go.
create trigger brume_definition_insert_only before update or delete or truncate on brume_definition
    for each statement execute function brume_row_closed();

-- One row: until when somebody waits for ends of runs elsewhere, so that whoever ends runs calls.
create table brume_awaiting (
    id       smallint not null primary key check (id = 1),
    until_at timestamptz
);
insert into brume_awaiting (id) values (1);

-- Names that jobs had, and until when. A job's first name is the one that its lines are sealed with.
create table brume_former_name (
    job_id   bigint not null,
    until_at timestamptz not null,
    name_key varchar(201) collate "C" not null,
    primary key (job_id, until_at)
);
create index brume_former_name_key on brume_former_name (name_key);

-- Gates beside the jobs' own: exclusion keys and limits.
create table brume_gate (
    kind varchar(10) not null,
    name varchar(201) collate "C" not null,
    cap  integer not null,
    used integer not null,
    -- Of a limit with a rate: how many runs may begin in how many seconds, those that still count, and when whoever waits is looked at.
    starts      integer,
    per_seconds integer,
    begun       varchar(4000),
    opens_at    timestamptz,
    primary key (kind, name)
) with (fillfactor = 50);
create index brume_gate_opens on brume_gate (opens_at) where opens_at is not null;

-- Live runs. state: PLANNED, WAITING, RUNNING, BACKING_OFF. Every state but WAITING has its job's place.
create table brume_run (
    id            bigint not null primary key,
    job_id        bigint not null,
    planned_at    timestamptz not null,
    slot          varchar(200) collate "C" not null default '',
    origin        varchar(12) not null,
    nominal       varchar(30) not null,
    zone          varchar(60) not null,
    note          varchar(100),
    version       integer not null,
    state         varchar(12) not null,
    lane          varchar(100) not null,
    priority      smallint not null,
    handler       varchar(200),
    ready_at      timestamptz not null,
    session_id    uuid,
    fence         bigint,
    leased_at     timestamptz,
    attempts      text,
    attempt       integer not null,
    payload       text,
    one_off_key   varchar(200) collate "C",
    parent_run    bigint,
    follow_up     varchar(200) collate "C",
    gates         varchar(2000),
    stop_asked    varchar(20),
    -- By when a run that waits must have begun; empty once it has.
    start_by      timestamptz,
    -- What an instance must have to be given a run, beside the handler: labels, each between strokes; being one session.
    labels        varchar(1000),
    only_session  uuid,
    -- How far a running run says that it is, in percent and words.
    progress      smallint,
    message       varchar(200),
    -- What the attempt under this fence has printed so far: the end of it, how many bytes in all, and how many of them are left out.
    printed       text,
    printed_bytes bigint,
    printed_left  bigint,
    printed_fence bigint,
    -- What the ledger says in place of a payload that holds secrets.
    shown_payload text,
    -- Who ordered a run, if a person or a program did.
    ordered_by    varchar(200),
    -- The trace contexts (W3C traceparent) of what ordered it and what planned it.
    traces        varchar(120),
    -- Whether somebody waits for its end, which is settled then.
    awaited       smallint default 0 not null
) with (fillfactor = 60, autovacuum_vacuum_scale_factor = 0, autovacuum_vacuum_threshold = 2000,
        autovacuum_vacuum_cost_delay = 0, vacuum_truncate = off);
create unique index brume_run_owed on brume_run (job_id, planned_at, slot);
create index brume_run_ready on brume_run (lane, priority, ready_at) where state in ('PLANNED', 'BACKING_OFF');
create index brume_run_session on brume_run (session_id) where session_id is not null;
create index brume_run_one_off on brume_run (job_id, one_off_key) where one_off_key is not null;
create unique index brume_run_follow_up on brume_run (parent_run, follow_up) where parent_run is not null;
create index brume_run_start_by on brume_run (start_by) where start_by is not null;

-- How runs ended; insert-only. The last attempt has columns of its own, earlier ones are JSON. It lies in pieces, as do what runs were given
-- and printed: one for each month of planned instants, in UTC, so that a month goes at once, and one for the rest.
create table brume_ledger (
    run_id      bigint not null,
    job_id      bigint not null,
    planned_at  timestamptz not null,
    slot        varchar(200) collate "C" not null,
    origin      varchar(12) not null,
    nominal     varchar(30) not null,
    zone        varchar(60) not null,
    note        varchar(100),
    version     integer not null,
    lane        varchar(100) not null,
    ready_at    timestamptz not null,
    outcome     varchar(10) not null,
    reason      varchar(60),
    attempt     integer not null,
    instance    varchar(100),
    session_id  uuid,
    fence       bigint,
    started_at  timestamptz,
    ended_at    timestamptz,
    earlier     text,
    one_off_key varchar(200) collate "C",
    parent_run  bigint,
    follow_up   varchar(200) collate "C",
    recorded_at timestamptz not null,
    ordered_by  varchar(200),
    -- The trace context of the attempt that ended it.
    trace       varchar(55)
) partition by range (planned_at);
create unique index brume_ledger_owed on brume_ledger (planned_at, job_id, slot);
create index brume_ledger_run on brume_ledger (run_id);
create index brume_ledger_one_off on brume_ledger (job_id, one_off_key) where one_off_key is not null;
create trigger brume_ledger_insert_only before update on brume_ledger
    for each statement execute function brume_row_closed();
create trigger brume_ledger_no_delete before delete on brume_ledger
    for each statement execute function brume_row_kept();
create trigger brume_ledger_no_truncate before truncate on brume_ledger
    for each statement execute function brume_row_kept();

-- What people look for is what did not go well, or was not owed by a schedule; that is little.
create index brume_ledger_notable on brume_ledger (planned_at, outcome, origin, reason)
    where outcome <> 'SUCCEEDED' or origin <> 'SCHEDULE';

-- In which stretches of the ledger an instance comes up at all: next to nothing to keep, and all it takes for those that are long
-- gone. Version 13 does not have the kind of index that can tell.
do $$ begin
    if current_setting('server_version_num')::int >= 140000 then
        execute 'create index brume_ledger_stretches on brume_ledger using brin
            (instance text_bloom_ops(n_distinct_per_range = 50)) with (pages_per_range = 64, autosummarize = on)';
    end if;
end $$;

-- What ended runs were given, returned and failed of, where they were or did: beside the ledger, so that it can be erased. error is that
-- of the last attempt; errors are those of the earlier ones, as JSON by attempt.
create table brume_content (
    run_id     bigint not null,
    planned_at timestamptz not null,
    payload    text,
    result     text,
    error      text,
    errors     text,
    primary key (run_id, planned_at)
) partition by range (planned_at);
create trigger brume_content_insert_only before update on brume_content
    for each statement execute function brume_row_closed();
create trigger brume_content_no_delete before delete or truncate on brume_content
    for each statement execute function brume_row_kept();

-- What attempts printed; beside the ledger, so that it can be trimmed.
create table brume_output (
    run_id     bigint not null,
    planned_at timestamptz not null,
    attempt    integer not null,
    body       text not null,
    bytes      bigint not null,
    omitted    bigint not null,
    primary key (run_id, attempt, planned_at)
) partition by range (planned_at);
create trigger brume_output_insert_only before update on brume_output
    for each statement execute function brume_row_closed();
create trigger brume_output_no_delete before delete or truncate on brume_output
    for each statement execute function brume_row_kept();

-- Runs whose content was erased, with the digests of what there was: a seal over the line holds as before.
create table brume_erasure (
    run_id    bigint not null primary key,
    erased_at timestamptz not null,
    who       varchar(200) not null,
    because   varchar(500) not null,
    content   text not null
);
create trigger brume_erasure_insert_only before update on brume_erasure
    for each statement execute function brume_row_closed();
create trigger brume_erasure_no_delete before delete or truncate on brume_erasure
    for each statement execute function brume_row_kept();

-- Ends whose consequences are still to be drawn. A row that looks has no end: somebody is to see whether a waiting run may go.
create table brume_settle (
    run_id   bigint not null,
    looks    smallint default 0 not null,
    job_id   bigint not null,
    outcome  varchar(10),
    ended_at timestamptz,
    gates    varchar(2000),
    -- A run that ended while it waited for one has no place to give back.
    waited   smallint default 0 not null,
    -- What follows a run is known from the version that it ran under; 0 where an older instance ended it.
    version  integer default 0 not null,
    -- The trace context of the attempt that ended it, for what follows.
    trace    varchar(55),
    primary key (run_id, looks)
) with (autovacuum_vacuum_scale_factor = 0, autovacuum_vacuum_threshold = 2000, autovacuum_vacuum_cost_delay = 0,
        vacuum_truncate = off);

-- Occurrences passed over together: half-open, never overlapping.
create table brume_span (
    job_id      bigint not null,
    from_at     timestamptz not null,
    until_at    timestamptz not null,
    version     integer not null,
    first_at    timestamptz not null,
    last_at     timestamptz not null,
    occurrences bigint not null,
    reason      varchar(60) not null,
    -- Numbers, by which seals name spans and versions of definitions.
    id          bigint generated always as identity,
    primary key (job_id, from_at)
);

-- Spans and outputs never change, and go by retention alone.
create trigger brume_span_insert_only before update on brume_span
    for each statement execute function brume_row_closed();
create trigger brume_span_no_delete before delete or truncate on brume_span
    for each statement execute function brume_row_kept();
create unique index brume_span_number on brume_span (id);

-- Who changed or ordered what.
create table brume_change (
    id             bigint generated always as identity primary key,
    at             timestamptz not null,
    kind           varchar(20) not null,
    who            varchar(200) not null,
    host           varchar(255) not null,
    job            varchar(201),
    version_before integer,
    version_after  integer,
    body           text not null,
    -- Why an order was given, in the words of who gave it.
    because        varchar(500) default '' not null
);

-- A line of the change log never changes and never goes.
create trigger brume_change_insert_only before update or delete or truncate on brume_change
    for each statement execute function brume_row_closed();

-- Calendars, as JSON; versions are never changed once written.
create table brume_calendar (
    namespace  varchar(100) not null,
    name       varchar(100) not null,
    number     integer not null,
    content    text not null,
    source     varchar(500) not null,
    defined_at timestamptz not null,
    primary key (namespace, name, number)
);
create trigger brume_calendar_insert_only before update or delete or truncate on brume_calendar
    for each statement execute function brume_row_closed();

-- Which version of a calendar a job's definition in force goes by; 0 where it was missing.
create table brume_calendar_use (
    job_id    bigint not null,
    namespace varchar(100) not null,
    name      varchar(100) not null,
    number    integer not null,
    primary key (job_id, name)
);
create index brume_calendar_use_name on brume_calendar_use (namespace, name, number);

-- Which runs wait at which gate. gates, in runs and settle rows: the gates beside the job's own, as text.
create table brume_gate_queue (
    run_id     bigint not null,
    kind       varchar(10) not null,
    name       varchar(201) collate "C" not null,
    job_id     bigint not null,
    priority   smallint not null,
    planned_at timestamptz not null,
    primary key (run_id, kind, name)
);
create index brume_gate_queue_order on brume_gate_queue (kind, name, priority, planned_at);

-- One-offs by their keys, the latest of each: id is the number of the run that it becomes, drawn when it is ordered. Once that is made the
-- row stays as long as the run is on record, so that the same order is known again; another instant makes it the next one.
create table brume_one_off (
    id          bigint not null primary key,
    job_id      bigint not null,
    one_off_key varchar(150) collate "C" not null,
    due_at      timestamptz not null,
    payload     text,
    ordered_by  varchar(200) not null,
    made        smallint default 0 not null,
    -- At most one run at once of all one-offs that name it.
    exclusive   varchar(201) collate "C",
    -- A one-off that the end of a run has ordered; it is removed once a run has been made of it.
    parent_run  bigint,
    -- The trace context of what ordered it.
    trace       varchar(55),
    unique (job_id, one_off_key)
);
create index brume_one_off_due on brume_one_off (due_at) where made = 0;

-- What the jobs of a namespace may be and use, as JSON; a namespace that is not here may do anything.
create table brume_allowance (
    namespace varchar(100) collate "C" not null primary key,
    body      text not null,
    set_at    timestamptz not null,
    set_by    varchar(200) not null
);

-- The highest revision of each source of definitions.
create table brume_source (
    name       varchar(500) not null primary key,
    revision   bigint not null,
    applied_by varchar(200) not null,
    applied_at timestamptz not null
);

-- Pauses that ended, are in force, or are to come: of one job, of all that carry a tag, of a namespace, of everything. until_at is empty
-- until somebody ends it. owed: AS_DEFINED or LEFT_OUT. calendar and zone: whose days it was made of.
create table brume_pause (
    id                 bigint generated always as identity primary key,
    kind               varchar(12) not null,
    name               varchar(201) collate "C" not null,
    since_at           timestamptz not null,
    until_at           timestamptz,
    owed               varchar(12) not null,
    calendar_namespace varchar(100) collate "C",
    calendar           varchar(100) collate "C",
    zone               varchar(60),
    who                varchar(200) not null,
    because            varchar(500) not null
);

-- Runs whose holders are asked to stop them.
create table brume_stop (
    run_id bigint not null primary key,
    why    varchar(12) not null
);

-- Which jobs follow a job's runs, by its definition in force. follows: SUCCESS, FAILURE or END.
create table brume_follow_up (
    job_id  bigint not null,
    target  varchar(201) collate "C" not null,
    follows varchar(10) not null,
    primary key (job_id, target)
);

-- Requests of programs that carry a key, so that one that is sent again is not done again. Without an answer, it is still to be done.
create table brume_request (
    principal   varchar(200) collate "C" not null,
    namespace   varchar(100) collate "C" not null,
    operation   varchar(60) collate "C" not null,
    request_key varchar(200) collate "C" not null,
    -- Of what was asked for: the same key with another digest is refused.
    digest      varchar(64) not null,
    begun_at    timestamptz not null,
    answer      text,
    -- As long as this run is on record, and for a day at least, so is the request.
    run_id      bigint,
    primary key (principal, namespace, operation, request_key)
);
create index brume_request_begun on brume_request (begun_at);

-- Tokens by name, of which only a digest is kept: SHA-256. namespaces: with spaces between them; none for everywhere.
create table brume_token (
    name       varchar(100) collate "C" not null primary key,
    digest     varchar(64) not null,
    role_name  varchar(10) not null,
    namespaces text not null,
    added_at   timestamptz not null,
    added_by   varchar(200) not null,
    until_at   timestamptz,
    revoked_at timestamptz,
    unique (digest)
);

-- Who has signed in on a page, with the digest of what they were given; token: whose holder they are, with which it ends.
create table brume_sign_in (
    digest     varchar(64) not null primary key,
    who        varchar(200) not null,
    role_name  varchar(10) not null,
    namespaces text not null,
    token      varchar(100) collate "C",
    begun_at   timestamptz not null,
    until_at   timestamptz not null
);
create index brume_sign_in_until on brume_sign_in (until_at);

-- Leases by name, for code that brings its own timer. Held while until_at lies ahead; to be had again from free_at on.
create table brume_named_lease (
    name       varchar(201) collate "C" not null primary key,
    holder     varchar(200) not null,
    fence      bigint not null,
    taken_at   timestamptz not null,
    renewed_at timestamptz not null,
    until_at   timestamptz not null,
    free_at    timestamptz not null
);

-- The feed of changes, for those who follow: a row a transaction, while somebody does. Numbers come afterwards, in the order of what
-- was committed; body: the changes, as JSON.
create table brume_feed (
    id     bigint generated always as identity primary key,
    number bigint,
    fed_at timestamptz not null,
    body   text not null
);
create index brume_feed_number on brume_feed (number, id);

-- One row: up to where the feed has numbers, and the lock of whoever gives them. Before kept_from, something is missing. Until
-- listened_until somebody follows; what was committed before settles_at may not know that yet.
create table brume_feed_head (
    id             smallint not null primary key check (id = 1),
    number         bigint not null,
    kept_from      bigint not null,
    listened_until timestamptz,
    settles_at     timestamptz
);
insert into brume_feed_head (id, number, kept_from) values (1, 0, 1);

-- One row: the lock of whoever decides what is told. version: rises with every change of channels or rules; wants: what is noted when it happens.
create table brume_notice_head (
    id         smallint not null primary key check (id = 1),
    version    bigint not null,
    wants      varchar(200) not null,
    watched_at timestamptz,
    tidied_at  timestamptz
);
insert into brume_notice_head (id, version, wants) values (1, 0, '');

-- What a source says about notices, its channels and rules, as JSON; versions never change.
create table brume_telling (
    source     varchar(500) collate "C" not null,
    number     integer not null,
    content    text not null,
    defined_at timestamptz not null,
    primary key (source, number)
);
create trigger brume_telling_insert_only before update or delete or truncate on brume_telling
    for each statement execute function brume_row_closed();

-- What happened and may have to be told: a row a transaction, as JSON, until somebody has decided about it.
create table brume_notable (
    id       bigint generated always as identity primary key,
    noted_at timestamptz not null,
    body     text not null
);

-- Causes of notices: what is wrong with something. next_at: when what has come again is told together; body: what was told so far, as JSON.
create table brume_cause (
    cause_key varchar(400) collate "C" not null primary key,
    job_id    bigint,
    opened_at timestamptz not null,
    last_at   timestamptz not null,
    closed_at timestamptz,
    next_at   timestamptz,
    body      text not null
);
create index brume_cause_next on brume_cause (next_at);
create index brume_cause_open on brume_cause (closed_at, last_at);

-- Notices and how their delivery stands. state: WAITING, DELIVERED, UNDELIVERED. holder: the process that sends it, until leased_until.
create table brume_notice (
    number       bigint generated always as identity primary key,
    id           varchar(64) collate "C" not null unique,
    cause_key    varchar(400) collate "C" not null,
    channel      varchar(201) collate "C" not null,
    kind         varchar(30) not null,
    decided_at   timestamptz not null,
    body         text not null,
    state        varchar(12) not null,
    attempts     integer not null,
    next_at      timestamptz not null,
    give_up_at   timestamptz not null,
    problem      varchar(1000),
    holder       varchar(40),
    leased_until timestamptz,
    settled_at   timestamptz
);
create index brume_notice_next on brume_notice (state, next_at);
create index brume_notice_cause on brume_notice (cause_key, channel, state);

-- Numbers of places that gates had before: what was in force at an instant of the past.
create table brume_past_gate (
    kind     varchar(10) not null,
    name     varchar(201) collate "C" not null,
    cap      integer not null,
    until_at timestamptz not null,
    primary key (kind, name, until_at)
);

-- When runs waited for a place; until_at is empty as long as they do.
create table brume_wait (
    run_id   bigint not null primary key,
    since_at timestamptz not null,
    until_at timestamptz
);

-- Seals: each covers rows of each kind for ever, and the seal before it. ..._numbers: which, as ranges; ..._marks: a digest of each and
-- the minute that retention goes by, in that order.
create table brume_seal (
    number             bigint not null primary key,
    sealed_at          timestamptz not null,
    sealed_by          varchar(200) not null,
    line_numbers       text not null,
    line_marks         text not null,
    change_numbers     text not null,
    change_marks       text not null,
    span_numbers       text not null,
    span_marks         text not null,
    definition_numbers text not null,
    definition_marks   text not null,
    digest             char(64) not null
);
create trigger brume_seal_insert_only before update or delete or truncate on brume_seal
    for each statement execute function brume_row_closed();

-- One row: where sealing stands, and its lock. Beyond high_... nothing of a kind is sealed; below it, what open_... says: numbers
-- that were not on record yet.
create table brume_seal_head (
    id              smallint not null primary key check (id = 1),
    number          bigint not null,
    digest          char(64) not null,
    high_line       bigint not null,
    open_line       text not null,
    high_change     bigint not null,
    open_change     text not null,
    high_span       bigint not null,
    open_span       text not null,
    high_definition bigint not null,
    open_definition text not null
);
insert into brume_seal_head (id, number, digest, high_line, open_line, high_change, open_change, high_span, open_span, high_definition,
        open_definition) values (1, 0, repeat('0', 64), 0, '', 0, '', 0, '', 0, '');

-- The ledger summed up: a row for each day of a job, the sums of the whole of it and of its hours, as LineSumsText writes them. What is in it can be made again from
-- the ledger. Lines are added once, by number: beyond high_line none is in it, below it all but those in open_line.
create table brume_roll_up (
    day_at timestamptz not null,
    job_id bigint not null,
    whole  text not null,
    hours  text not null,
    primary key (day_at, job_id)
) partition by range (day_at);
create index brume_roll_up_job on brume_roll_up (job_id, day_at);
create table brume_roll_up_head (
    id        smallint not null primary key check (id = 1),
    high_line bigint not null,
    open_line text not null
);
insert into brume_roll_up_head (id, high_line, open_line) values (1, 0, '');

-- What the ledger keeps: the whole of it, job_id 0, and how far each job's own bounds were applied. No job's own bounds remove what
-- is younger than floor_seconds. Before kept_from, lines may have been removed.
create table brume_keep (
    job_id        bigint not null primary key,
    keep_seconds  bigint,
    keep_runs     bigint,
    floor_seconds bigint,
    kept_from     timestamptz not null,
    kept_at       timestamptz
);
insert into brume_keep (job_id, kept_from) values (0, timestamptz '1970-01-01 00:00:00Z');

-- A piece of each table that lies in months. What is on record already is never changed in any but the sums.
create function brume_add_pieces(suffix text, bounds text) returns void language plpgsql as $$
declare
    whole regclass;
    piece text;
    month text := case when bounds = 'default' then '' else quote_literal('month') end;
begin
    foreach whole in array array['brume_ledger', 'brume_content', 'brume_output', 'brume_roll_up']::regclass[] loop
        piece := (select format('%I.%I', n.nspname, c.relname || suffix)
            from pg_class c join pg_namespace n on n.oid = c.relnamespace where c.oid = whole);
        execute format('create table %s (like %s including defaults)', piece, whole);
        if whole <> 'brume_roll_up'::regclass then
            execute format('create trigger insert_only before update on %s for each statement execute function brume_row_closed()', piece);
            execute format('create trigger no_delete before delete or truncate on %s for each statement execute function brume_row_kept(%s)',
                piece, month);
        end if;
        execute format('alter table %s attach partition %s %s', whole, piece, bounds);
    end loop;
end $$;
do $$ begin
    perform brume_add_pieces('_rest', 'default');
end $$;

-- The months that have a piece, with how many bytes of lines are in it, and of what runs printed.
create function brume_months()
returns table (from_at timestamptz, until_at timestamptz, piece regclass, held bigint, printed bigint) language sql stable as $$
    select m.month at time zone 'UTC', (m.month + interval '1 month') at time zone 'UTC', m.oid::regclass, pg_relation_size(m.oid),
        (select pg_relation_size(c.oid)
            from pg_inherits i
            join pg_class c on c.oid = i.inhrelid
            where i.inhparent = 'brume_output'::regclass and right(c.relname, 7) = m.name)
    from (
        select c.oid, right(c.relname, 7) as name, to_date(right(c.relname, 7), 'YYYY_MM')::timestamp as month
        from pg_inherits i
        join pg_class c on c.oid = i.inhrelid
        where i.inhparent = 'brume_ledger'::regclass and c.relname ~ '_[0-9]{4}_[0-9]{2}$'
    ) m
    order by 1
$$;

-- Gives each month between two instants, both included, its pieces, unless lines of it lie in the rest already. For who adds lines,
-- as the owner.
create function brume_add_months(since timestamptz, until timestamptz) returns integer language plpgsql security definer
set lock_timeout = '200ms' as $$
declare
    month timestamp := date_trunc('month', since at time zone 'UTC');
    last timestamp := least(until at time zone 'UTC', month + interval '10 years');
    bounds text;
    added integer := 0;
begin
    if not exists (select from generate_series(month, last, interval '1 month') wanted
            where not exists (select from brume_months() m where m.from_at = wanted at time zone 'UTC')) then
        return 0;
    end if;
    lock table only brume_ledger in share update exclusive mode;
    while month <= last loop
        if not exists (select from brume_months() m where m.from_at = month at time zone 'UTC')
            and not exists (select from brume_ledger l
                where l.planned_at >= month at time zone 'UTC' and l.planned_at < (month + interval '1 month') at time zone 'UTC')
            and not exists (select from brume_output o
                where o.planned_at >= month at time zone 'UTC' and o.planned_at < (month + interval '1 month') at time zone 'UTC')
            and not exists (select from brume_roll_up r
                where r.day_at >= month at time zone 'UTC' and r.day_at < (month + interval '1 month') at time zone 'UTC')
        then
            bounds := format('for values from (%L) to (%L)',
                month at time zone 'UTC', (month + interval '1 month') at time zone 'UTC');
            perform brume_add_pieces(to_char(month, '"_"YYYY"_"MM'), bounds);
            added := added + 1;
        end if;
        month := month + interval '1 month';
    end loop;
    return added;
end $$;

-- Removes the lines of a month that is beyond the bounds of the whole, with what belongs to them, and answers which they were. For
-- retention, as the owner. Nobody adds to the month meanwhile; only at the end nobody reads it. Where nothing was ever sealed, how many there
-- were is enough.
create function brume_remove_month(since timestamptz, numbered boolean)
returns table (first_run bigint, last_run bigint, lines bigint, first_at timestamptz, last_at timestamptz) language plpgsql security definer
set lock_timeout = '200ms' set jit = off set enable_seqscan = off as $$
declare
    ended timestamptz := (select m.until_at from brume_months() m where m.from_at = since);
    month text := (select m.piece::text from brume_months() m where m.from_at = since);
    keep record;
begin
    select k.keep_seconds, k.keep_runs, k.floor_seconds into strict keep from brume_keep k where k.job_id = 0;
    if ended is null or ended > clock_timestamp() - make_interval(secs => coalesce(keep.floor_seconds, 0)) or not (
        coalesce(ended <= clock_timestamp() - make_interval(secs => keep.keep_seconds), false)
        or keep.keep_runs is not null
            and exists (select from brume_ledger l where l.planned_at >= ended offset greatest(keep.keep_runs - 1, 0) limit 1)) then
        raise exception 'the month from % is not beyond what the ledger keeps', since;
    end if;
    execute format('lock table %s, %s in share mode', month, replace(month, '_ledger_', '_output_'));
    delete from brume_one_off o
    using brume_ledger l
    where l.planned_at >= since and l.planned_at < ended and l.origin = 'ONE_OFF' and o.id = l.run_id;
    delete from brume_wait w
    where exists (select from brume_ledger l where l.run_id = w.run_id and l.planned_at >= since and l.planned_at < ended);
    delete from brume_erasure e
    where exists (select from brume_ledger l where l.run_id = e.run_id and l.planned_at >= since and l.planned_at < ended);
    select min(l.planned_at), max(l.planned_at) into first_at, last_at
    from brume_ledger l
    where l.planned_at >= since and l.planned_at < ended;
    if not numbered then
        execute format('select min(run_id), max(run_id), count(*) from %s', month) into first_run, last_run, lines;
        return next;
    else
        -- Numbers that follow one another are most of them: what is whole is one range, and only the rest is looked at one by one. The
        -- index of numbers is all that this reads.
        for first_run, last_run in execute format($query$
            with chunk as materialized (
                select min(run_id) as first_run, max(run_id) as last_run, count(*) as lines
                from %1$s
                group by run_id / 4096
            )
            select c.first_run, c.last_run
            from chunk c
            where c.lines = c.last_run - c.first_run + 1
            union all
            select min(i.run_id), max(i.run_id)
            from chunk c
            cross join lateral (
                select l.run_id, l.run_id - row_number() over (order by l.run_id) as island
                from %1$s l
                where l.run_id between c.first_run and c.last_run
            ) i
            where c.lines <> c.last_run - c.first_run + 1
            group by c.first_run, i.island
            order by 1$query$, month)
        loop
            lines := last_run - first_run + 1;
            return next;
        end loop;
    end if;
    -- What runs printed that are live and have no line yet stays, so that not all of it can go at once.
    if exists (select from brume_output o where o.planned_at >= since and o.planned_at < ended
            and exists (select from brume_run r where r.id = o.run_id)) then
        delete from brume_output o
        where o.planned_at >= since and o.planned_at < ended and not exists (select from brume_run r where r.id = o.run_id);
        execute (select format('truncate %s', string_agg(replace(month, '_ledger_', kind), ', '))
            from unnest(array['_ledger_', '_content_', '_roll_up_']) as k(kind));
    else
        execute (select format('truncate %s', string_agg(replace(month, '_ledger_', kind), ', '))
            from unnest(array['_ledger_', '_content_', '_output_', '_roll_up_']) as k(kind));
    end if;
end $$;

-- Removes the pieces of months that ended before an instant and hold no lines. For retention, as the owner.
create function brume_drop_months(before timestamptz) returns integer language plpgsql security definer
set lock_timeout = '100ms' as $$
declare
    month text;
    dropped integer := 0;
begin
    if not exists (select from brume_months() m where m.until_at <= before and m.held = 0 and m.printed = 0) then
        return 0;
    end if;
    lock table only brume_ledger, only brume_content, only brume_output, only brume_roll_up in access exclusive mode;
    for month in select m.piece from brume_months() m where m.until_at <= before and m.held = 0 and m.printed = 0 loop
        execute (select format('drop table %s', string_agg(replace(month, '_ledger_', kind), ', '))
            from unnest(array['_ledger_', '_content_', '_output_', '_roll_up_']) as k(kind));
        dropped := dropped + 1;
    end loop;
    return dropped;
end $$;

-- Whoever may call these as the owner is said role by role; and what they name is looked for in this schema alone.
do $$
declare
    known text := (select n.nspname from pg_class c join pg_namespace n on n.oid = c.relnamespace
        where c.oid = 'brume_ledger'::regclass);
    called regprocedure;
begin
    foreach called in array array['brume_add_months(timestamptz, timestamptz)', 'brume_remove_month(timestamptz, boolean)',
        'brume_drop_months(timestamptz)']::regprocedure[] loop
        execute format('alter function %s set search_path = %I, pg_temp', called, known);
        execute format('revoke all on function %s from public', called);
    end loop;
    perform brume_add_months(clock_timestamp(), clock_timestamp() + interval '3 months');
end $$;
