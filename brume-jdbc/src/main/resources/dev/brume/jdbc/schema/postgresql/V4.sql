-- Brume, schema 4, PostgreSQL 13 or later: the format of definitions, orders by hand, vacuum of jobs, labels, follow-ups,
-- progress, leases by name.

-- Which format of definitions a reader must know; jobs beyond its own an older instance leaves to newer ones.
alter table brume_job add column format smallint default 1 not null;

-- Cleaning up after every fiftieth of a million jobs reads their indexes whole every few seconds; the server's usual share is right.
alter table brume_job set (autovacuum_vacuum_scale_factor = 0.2, autovacuum_vacuum_threshold = 500,
        autovacuum_analyze_scale_factor = 0.5);

-- A paused job owes nothing for now: next_at is empty as long.
alter table brume_job add column paused smallint default 0 not null;

-- Pauses in force: of one job, of all that carry a tag, of everything.
create table brume_pause (
    kind     varchar(12)  not null,
    name     varchar(201) collate "C" not null,
    since_at timestamptz not null,
    who      varchar(200) not null,
    because  varchar(500) not null,
    primary key (kind, name)
);

-- Runs whose holders are asked to stop them.
create table brume_stop (
    run_id   bigint      not null primary key,
    why      varchar(12) not null
);

-- A run that ended while it was held has no place to give back.
alter table brume_settle add column held smallint default 0 not null;

-- Why an order was given, in the words of who gave it.
alter table brume_change add column because varchar(500) default '' not null;

-- By when a run that waits must have begun; empty once it has.
alter table brume_run add column start_by timestamptz;
create index brume_run_start_by on brume_run (start_by) where start_by is not null;

-- What an instance must have to be given a run, beside the handler: labels, each between strokes; being one session.
alter table brume_run add column labels varchar(1000);
alter table brume_run add column only_session uuid;
alter table brume_session add column labels varchar(2000);

-- How far a running run says that it is, in percent and words.
alter table brume_run add column progress smallint;
alter table brume_run add column message varchar(200);

-- Which jobs follow a job's runs, by its definition in force. follows: SUCCESS, FAILURE or END.
create table brume_follow_up (
    job_id  bigint       not null,
    target  varchar(201) collate "C" not null,
    follows varchar(10)  not null,
    primary key (job_id, target)
);

-- What follows a run is known from the version that it ran under; 0 where an older instance ended it.
alter table brume_settle add column version integer default 0 not null;

-- A one-off that the end of a run has ordered; it is removed once a run has been made of it.
alter table brume_one_off add column parent_run bigint;

-- Leases by name, for code that brings its own timer. Held while until_at lies ahead; to be had again from free_at on.
create table brume_lease (
    name       varchar(200) collate "C" not null primary key,
    holder     varchar(200) not null,
    fence      bigint       not null,
    taken_at   timestamptz not null,
    renewed_at timestamptz not null,
    until_at   timestamptz not null,
    free_at    timestamptz not null
);
