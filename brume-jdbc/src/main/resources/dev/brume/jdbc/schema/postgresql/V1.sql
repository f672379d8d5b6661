-- Brume, schema 1, PostgreSQL 13 or later.
-- All instants are UTC. Scripts only add: versions N and N-1 of the software work side by side.

-- One row: the lock point of definers, and the epoch, which rises when the database turns out to be an older copy.
create table brume_cluster (
    id         smallint    not null primary key check (id = 1),
    epoch      bigint      not null,
    created_at timestamptz not null
);
insert into brume_cluster (id, epoch, created_at) values (1, 0, clock_timestamp());

-- Fresh run ids, and fence numbers that rise with every lease.
create sequence brume_run_number;
create sequence brume_fence_number;

-- One row for each life of an instance. state: OPEN -> DRAINING -> ENDED, or LAPSED -> ENDED when others took over.
create table brume_session (
    id          uuid          not null primary key,
    instance    varchar(100)  not null,
    host        varchar(255)  not null,
    pid         bigint        not null,
    lanes       varchar(2000) not null,
    software    varchar(100)  not null,
    tzdata      varchar(50)   not null,
    epoch       bigint        not null,
    state       varchar(10)   not null,
    opened_at   timestamptz   not null,
    renewed_at  timestamptz   not null,
    lease_until timestamptz   not null,
    ended_at    timestamptz
) with (fillfactor = 50);

-- A job: its cursor, its lock point, and its gate (used places of cap). live_key is null once it is dropped.
create table brume_job (
    id            bigint generated always as identity primary key,
    namespace     varchar(100) not null,
    name          varchar(100) not null,
    live_key      varchar(201) collate "C" unique,
    version       integer      not null,
    source        varchar(500) not null,
    cursor_at     timestamptz  not null,
    next_at       timestamptz,
    used          integer      not null,
    cap           integer      not null,
    waiting       integer      not null,
    last_run      bigint,
    last_outcome  varchar(10),
    last_ended_at timestamptz,
    dropped_at    timestamptz
) with (fillfactor = 70, autovacuum_vacuum_scale_factor = 0.02, autovacuum_vacuum_cost_delay = 0);
create index brume_job_due on brume_job (next_at) where next_at is not null;

-- Definitions, as JSON; never changed once written.
create table brume_version (
    job_id     bigint       not null,
    number     integer      not null,
    definition text         not null,
    source     varchar(500) not null,
    defined_at timestamptz  not null,
    primary key (job_id, number)
);

-- Gates beside the jobs' own: exclusion keys and limits.
create table brume_gate (
    kind varchar(10)  not null,
    name varchar(200) collate "C" not null,
    cap  integer      not null,
    used integer      not null,
    primary key (kind, name)
) with (fillfactor = 50);

-- Live runs. state: PLANNED, HELD, RUNNING, BACKING_OFF. Every state but HELD has its job's place.
create table brume_run (
    id          bigint       not null primary key,
    job_id      bigint       not null,
    planned_at  timestamptz  not null,
    slot        varchar(200) collate "C" not null default '',
    origin      varchar(12)  not null,
    nominal     varchar(30)  not null,
    zone        varchar(60)  not null,
    note        varchar(30),
    version     integer      not null,
    state       varchar(12)  not null,
    lane        varchar(100) not null,
    priority    smallint     not null,
    handler     varchar(200),
    ready_at    timestamptz  not null,
    session_id  uuid,
    fence       bigint,
    leased_at   timestamptz,
    attempts    text,
    attempt     integer      not null,
    payload     text,
    one_off_key varchar(200) collate "C",
    parent_run  bigint,
    follow_up   varchar(200) collate "C",
    gates       varchar(2000),
    stop_asked  varchar(20)
) with (fillfactor = 60, autovacuum_vacuum_scale_factor = 0, autovacuum_vacuum_threshold = 2000,
        autovacuum_vacuum_cost_delay = 0, vacuum_truncate = off);
create unique index brume_run_owed on brume_run (job_id, planned_at, slot);
create index brume_run_ready on brume_run (lane, priority, ready_at) where state in ('PLANNED', 'BACKING_OFF');
create index brume_run_session on brume_run (session_id) where session_id is not null;
create unique index brume_run_one_off on brume_run (job_id, one_off_key) where one_off_key is not null;
create unique index brume_run_follow_up on brume_run (parent_run, follow_up) where parent_run is not null;

-- How runs ended; insert-only. The last attempt has columns of its own, earlier ones are JSON.
create table brume_ledger (
    run_id      bigint       not null,
    job_id      bigint       not null,
    planned_at  timestamptz  not null,
    slot        varchar(200) collate "C" not null,
    origin      varchar(12)  not null,
    nominal     varchar(30)  not null,
    zone        varchar(60)  not null,
    note        varchar(30),
    version     integer      not null,
    lane        varchar(100) not null,
    ready_at    timestamptz  not null,
    outcome     varchar(10)  not null,
    reason      varchar(60),
    attempt     integer      not null,
    instance    varchar(100),
    session_id  uuid,
    fence       bigint,
    started_at  timestamptz,
    ended_at    timestamptz,
    error       text,
    earlier     text,
    payload     text,
    result      text,
    one_off_key varchar(200) collate "C",
    parent_run  bigint,
    follow_up   varchar(200) collate "C",
    recorded_at timestamptz  not null
);
create unique index brume_ledger_owed on brume_ledger (planned_at, job_id, slot);
create index brume_ledger_run on brume_ledger (run_id);
create unique index brume_ledger_one_off on brume_ledger (job_id, one_off_key) where one_off_key is not null;
create unique index brume_ledger_follow_up on brume_ledger (parent_run, follow_up) where parent_run is not null;

create function brume_ledger_closed() returns trigger language plpgsql as $$
begin
    raise exception 'brume_ledger is insert-only: a line never changes';
end $$;
create trigger brume_ledger_insert_only before update on brume_ledger
    for each statement execute function brume_ledger_closed();

-- What attempts printed; beside the ledger, so that it can be trimmed.
create table brume_output (
    run_id  bigint  not null,
    attempt integer not null,
    body    text    not null,
    bytes   bigint  not null,
    omitted bigint  not null,
    primary key (run_id, attempt)
);

-- Ends whose consequences are still to be drawn.
create table brume_settle (
    run_id   bigint      not null primary key,
    job_id   bigint      not null,
    outcome  varchar(10) not null,
    ended_at timestamptz not null
) with (autovacuum_vacuum_scale_factor = 0, autovacuum_vacuum_threshold = 2000, autovacuum_vacuum_cost_delay = 0,
        vacuum_truncate = off);

-- Occurrences passed over together: half-open, never overlapping.
create table brume_span (
    job_id   bigint      not null,
    from_at  timestamptz not null,
    until_at timestamptz not null,
    version  integer     not null,
    first_at timestamptz not null,
    last_at  timestamptz not null,
    occurrences bigint   not null,
    reason   varchar(60) not null,
    primary key (job_id, from_at)
);

-- Who changed or ordered what.
create table brume_change (
    id             bigint generated always as identity primary key,
    at             timestamptz  not null,
    kind           varchar(20)  not null,
    who            varchar(200) not null,
    origin         varchar(255) not null,
    job            varchar(201),
    version_before integer,
    version_after  integer,
    body           text         not null
);
