-- Brume, schema 4, H2 2.3 or later: the format of definitions, orders by hand.

-- Which format of definitions a reader must know; jobs beyond its own an older instance leaves to newer ones.
alter table brume_job add column if not exists format smallint default 1 not null;

-- A paused job owes nothing for now: next_at is empty as long.
alter table brume_job add column if not exists paused smallint default 0 not null;

-- Pauses in force: of one job, of all that carry a tag, of everything.
create table if not exists brume_pause (
    kind     varchar(12)  not null,
    name     varchar(201) not null,
    since_at timestamp(6) with time zone not null,
    who      varchar(200) not null,
    because  varchar(500) not null,
    primary key (kind, name)
);

-- Runs whose holders are asked to stop them.
create table if not exists brume_stop (
    run_id   bigint      not null primary key,
    why      varchar(12) not null
);

-- A run that ended while it was held has no place to give back.
alter table brume_settle add column if not exists held smallint default 0 not null;

-- Why an order was given, in the words of who gave it.
alter table brume_change add column if not exists because varchar(500) default '' not null;

-- By when a run that waits must have begun; empty once it has.
alter table brume_run add column if not exists start_by timestamp(6) with time zone;
create index if not exists brume_run_start_by on brume_run (start_by);
