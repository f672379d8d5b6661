-- Brume, schema 4, MariaDB 10.6 or later: the format of definitions, orders by hand, labels, follow-ups, progress, leases by name.

-- Which format of definitions a reader must know; jobs beyond its own an older instance leaves to newer ones.
alter table brume_job add column if not exists format smallint default 1 not null;

-- A paused job owes nothing for now: next_at is empty as long.
alter table brume_job add column if not exists paused smallint default 0 not null;

-- Pauses in force: of one job, of all that carry a tag, of everything.
create table if not exists brume_pause (
    kind     varchar(12)  not null,
    name     varchar(201) not null,
    since_at datetime(6) not null,
    who      varchar(200) not null,
    because  varchar(500) not null,
    primary key (kind, name)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Runs whose holders are asked to stop them.
create table if not exists brume_stop (
    run_id   bigint      not null primary key,
    why      varchar(12) not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- A run that ended while it was held has no place to give back.
alter table brume_settle add column if not exists held smallint default 0 not null;

-- Why an order was given, in the words of who gave it.
alter table brume_change add column if not exists because varchar(500) default '' not null;

-- By when a run that waits must have begun; empty once it has.
alter table brume_run add column if not exists start_by datetime(6);
create index if not exists brume_run_start_by on brume_run (start_by);

-- What an instance must have to be given a run, beside the handler: labels, each between strokes; being one session.
alter table brume_run add column if not exists labels varchar(1000);
alter table brume_run add column if not exists only_session char(36);
alter table brume_session add column if not exists labels varchar(2000);

-- How far a running run says that it is, in percent and words.
alter table brume_run add column if not exists progress smallint;
alter table brume_run add column if not exists message varchar(200);

-- Which jobs follow a job's runs, by its definition in force. follows: SUCCESS, FAILURE or END.
create table if not exists brume_follow_up (
    job_id  bigint       not null,
    target  varchar(201) not null,
    follows varchar(10)  not null,
    primary key (job_id, target)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- What follows a run is known from the version that it ran under; 0 where an older instance ended it.
alter table brume_settle add column if not exists version integer default 0 not null;

-- A one-off that the end of a run has ordered; it is removed once a run has been made of it.
alter table brume_one_off add column if not exists parent_run bigint;

-- Leases by name, for code that brings its own timer. Held while until_at lies ahead; to be had again from free_at on.
create table if not exists brume_lease (
    name       varchar(200) not null primary key,
    holder     varchar(200) not null,
    fence      bigint       not null,
    taken_at   datetime(6) not null,
    renewed_at datetime(6) not null,
    until_at   datetime(6) not null,
    free_at    datetime(6) not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
