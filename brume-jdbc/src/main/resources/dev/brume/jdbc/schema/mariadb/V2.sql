-- Brume, schema 2, MariaDB 10.6 or later: calendars, what versions pin, the zone rules in use.
-- MariaDB commits at each statement, so a script that was cut off is applied again from the top.

alter table brume_cluster add column if not exists tzdata varchar(50);

-- pins: as JSON, from when limits count and which versions of calendars a version of a definition goes by.
alter table brume_version add column if not exists pins longtext;
alter table brume_version add column if not exists tzdata varchar(50);

-- A schedule that goes by the ends of runs is due at end_due_at, or waits for the end of end_run.
alter table brume_job add column if not exists end_due_at datetime(6);
alter table brume_job add column if not exists end_run bigint;

-- Several notes may stand beside an occurrence.
alter table brume_run modify column note varchar(100);
alter table brume_ledger modify column note varchar(100);

-- Calendars, as JSON; versions are never changed once written.
create table if not exists brume_calendar (
    namespace  varchar(100) not null,
    name       varchar(100) not null,
    number     integer      not null,
    content    longtext not null,
    source     varchar(500) not null,
    defined_at datetime(6) not null,
    primary key (namespace, name, number)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Which version of a calendar a job's definition in force goes by; 0 where it was missing.
create table if not exists brume_calendar_use (
    job_id    bigint       not null,
    namespace varchar(100) not null,
    name      varchar(100) not null,
    number    integer      not null,
    primary key (job_id, name)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_calendar_use_name on brume_calendar_use (namespace, name, number);
