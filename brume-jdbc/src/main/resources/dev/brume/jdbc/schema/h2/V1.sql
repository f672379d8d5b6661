-- Brume, schema 1, H2 2.3 or later.
-- H2 commits at each statement, so a script that was cut off is applied again from the top.
-- All instants are UTC. Scripts only add: versions N and N-1 of the software work side by side.

-- One row: the lock point of definers, and the epoch, which rises when the database turns out to be an older copy.
create table if not exists brume_cluster (
    id         smallint    not null primary key check (id = 1),
    epoch      bigint      not null,
    created_at timestamp(6) with time zone not null
);
insert into brume_cluster (id, epoch, created_at)
    select 1, 0, current_timestamp where not exists (select 1 from brume_cluster);

-- Fresh run ids, and fence numbers that rise with every lease.
create sequence if not exists brume_run_number;
create sequence if not exists brume_fence_number;

-- One row for each life of an instance. state: OPEN -> DRAINING -> ENDED, or LAPSED -> ENDED when others took over.
create table if not exists brume_session (
    id          uuid          not null primary key,
    instance    varchar(100)  not null,
    host        varchar(255)  not null,
    pid         bigint        not null,
    lanes       varchar(2000) not null,
    software    varchar(100)  not null,
    tzdata      varchar(50)   not null,
    epoch       bigint        not null,
    state       varchar(10)   not null,
    opened_at   timestamp(6) with time zone   not null,
    renewed_at  timestamp(6) with time zone   not null,
    lease_until timestamp(6) with time zone   not null,
    ended_at    timestamp(6) with time zone
);

-- A job: its cursor, its lock point, and its gate (used places of cap). live_key is null once it is dropped.
create table if not exists brume_job (
    id            bigint generated always as identity (cache 1000) primary key,
    namespace     varchar(100) not null,
    name          varchar(100) not null,
    live_key      varchar(201) unique,
    version       integer      not null,
    source        varchar(500) not null,
    cursor_at     timestamp(6) with time zone  not null,
    next_at       timestamp(6) with time zone,
    used          integer      not null,
    cap           integer      not null,
    waiting       integer      not null,
    last_run      bigint,
    last_outcome  varchar(10),
    last_ended_at timestamp(6) with time zone,
    dropped_at    timestamp(6) with time zone
);
create index if not exists brume_job_due on brume_job (next_at);

-- Definitions, as JSON; never changed once written.
create table if not exists brume_version (
    job_id     bigint       not null,
    number     integer      not null,
    definition character varying not null,
    source     varchar(500) not null,
    defined_at timestamp(6) with time zone  not null,
    primary key (job_id, number)
);

-- Gates beside the jobs' own: exclusion keys and limits.
create table if not exists brume_gate (
    kind varchar(10)  not null,
    name varchar(200) not null,
    cap  integer      not null,
    used integer      not null,
    primary key (kind, name)
);

-- Live runs. state: PLANNED, HELD, RUNNING, BACKING_OFF. Every state but HELD has its job's place.
create table if not exists brume_run (
    id          bigint       not null primary key,
    job_id      bigint       not null,
    planned_at  timestamp(6) with time zone  not null,
    slot        varchar(200) not null default '',
    origin      varchar(12)  not null,
    nominal     varchar(30)  not null,
    zone        varchar(60)  not null,
    note        varchar(30),
    version     integer      not null,
    state       varchar(12)  not null,
    lane        varchar(100) not null,
    priority    smallint     not null,
    handler     varchar(200),
    ready_at    timestamp(6) with time zone  not null,
    session_id  uuid,
    fence       bigint,
    leased_at   timestamp(6) with time zone,
    attempts    character varying,
    attempt     integer      not null,
    payload     character varying,
    one_off_key varchar(200),
    parent_run  bigint,
    follow_up   varchar(200),
    gates       varchar(2000),
    stop_asked  varchar(20)
);
create unique index if not exists brume_run_owed on brume_run (job_id, planned_at, slot);
create index if not exists brume_run_ready on brume_run (lane, state, priority, ready_at);
create index if not exists brume_run_session on brume_run (session_id);
create unique index if not exists brume_run_one_off on brume_run (job_id, one_off_key);
create unique index if not exists brume_run_follow_up on brume_run (parent_run, follow_up);

-- How runs ended; insert-only. The last attempt has columns of its own, earlier ones are JSON.
create table if not exists brume_ledger (
    run_id      bigint       not null,
    job_id      bigint       not null,
    planned_at  timestamp(6) with time zone  not null,
    slot        varchar(200) not null,
    origin      varchar(12)  not null,
    nominal     varchar(30)  not null,
    zone        varchar(60)  not null,
    note        varchar(30),
    version     integer      not null,
    lane        varchar(100) not null,
    ready_at    timestamp(6) with time zone  not null,
    outcome     varchar(10)  not null,
    reason      varchar(60),
    attempt     integer      not null,
    instance    varchar(100),
    session_id  uuid,
    fence       bigint,
    started_at  timestamp(6) with time zone,
    ended_at    timestamp(6) with time zone,
    error       character varying,
    earlier     character varying,
    payload     character varying,
    result      character varying,
    one_off_key varchar(200),
    parent_run  bigint,
    follow_up   varchar(200),
    recorded_at timestamp(6) with time zone  not null
);
create unique index if not exists brume_ledger_owed on brume_ledger (planned_at, job_id, slot);
create index if not exists brume_ledger_run on brume_ledger (run_id);
create unique index if not exists brume_ledger_one_off on brume_ledger (job_id, one_off_key);
create unique index if not exists brume_ledger_follow_up on brume_ledger (parent_run, follow_up);

-- What attempts printed; beside the ledger, so that it can be trimmed.
create table if not exists brume_output (
    run_id  bigint  not null,
    attempt integer not null,
    body    character varying not null,
    bytes   bigint  not null,
    omitted bigint  not null,
    primary key (run_id, attempt)
);

-- Ends whose consequences are still to be drawn.
create table if not exists brume_settle (
    run_id   bigint      not null primary key,
    job_id   bigint      not null,
    outcome  varchar(10) not null,
    ended_at timestamp(6) with time zone not null
);

-- Occurrences passed over together: half-open, never overlapping.
create table if not exists brume_span (
    job_id   bigint      not null,
    from_at  timestamp(6) with time zone not null,
    until_at timestamp(6) with time zone not null,
    version  integer     not null,
    first_at timestamp(6) with time zone not null,
    last_at  timestamp(6) with time zone not null,
    occurrences bigint      not null,
    reason   varchar(60) not null,
    primary key (job_id, from_at)
);

-- Who changed or ordered what.
create table if not exists brume_change (
    id             bigint generated always as identity (cache 1000) primary key,
    at             timestamp(6) with time zone  not null,
    kind           varchar(20)  not null,
    who            varchar(200) not null,
    origin         varchar(255) not null,
    job            varchar(201),
    version_before integer,
    version_after  integer,
    body           character varying not null
);
