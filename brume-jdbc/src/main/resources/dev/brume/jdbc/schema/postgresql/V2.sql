-- Brume, schema 2, PostgreSQL 13 or later: calendars, what versions pin, the zone rules in use.

alter table brume_cluster add column tzdata varchar(50);

-- pins: as JSON, from when limits count and which versions of calendars a version of a definition goes by.
alter table brume_version add column pins text;
alter table brume_version add column tzdata varchar(50);

-- A schedule that goes by the ends of runs is due at end_due_at, or waits for the end of end_run.
alter table brume_job add column end_due_at timestamptz;
alter table brume_job add column end_run bigint;

-- Several notes may stand beside an occurrence.
alter table brume_run alter column note type varchar(100);
alter table brume_ledger alter column note type varchar(100);

-- Calendars, as JSON; versions are never changed once written.
create table brume_calendar (
    namespace  varchar(100) not null,
    name       varchar(100) not null,
    number     integer      not null,
    content    text         not null,
    source     varchar(500) not null,
    defined_at timestamptz  not null,
    primary key (namespace, name, number)
);

-- Which version of a calendar a job's definition in force goes by; 0 where it was missing.
create table brume_calendar_use (
    job_id    bigint       not null,
    namespace varchar(100) not null,
    name      varchar(100) not null,
    number    integer      not null,
    primary key (job_id, name)
);
create index brume_calendar_use_name on brume_calendar_use (namespace, name, number);
