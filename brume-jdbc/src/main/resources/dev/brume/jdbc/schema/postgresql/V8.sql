-- Brume, schema 8, PostgreSQL 13 or later: seals cover spans, definitions and what runs printed, too; bounds that are the archivist's alone.

-- Numbers, by which seals name spans and versions of definitions.
alter table brume_span add column id bigint generated always as identity;
create unique index brume_span_number on brume_span (id);
alter table brume_version add column id bigint generated always as identity;
create unique index brume_version_number on brume_version (id);

-- Seals: each covers rows of each kind for ever, and the seal before it. ..._numbers: which, as ranges; ..._marks: a digest of
-- each and the minute that retention goes by, in that order. Seals of the form before, which covered less, do not go on.
drop table if exists brume_seal;
drop table if exists brume_seal_head;
create table brume_seal (
    number                bigint not null primary key,
    sealed_at             timestamptz not null,
    sealed_by             varchar(200) not null,
    line_numbers          text not null,
    line_marks            text not null,
    change_numbers        text not null,
    change_marks          text not null,
    span_numbers          text not null,
    span_marks            text not null,
    definition_numbers    text not null,
    definition_marks      text not null,
    digest                char(64) not null
);
create trigger brume_seal_insert_only before update or delete or truncate on brume_seal
    for each statement execute function brume_row_closed();

-- One row: where sealing stands, and its lock. Beyond high_... nothing of a kind is sealed; below it, what open_... says: numbers
-- that were not on record yet.
create table brume_seal_head (
    id                    smallint not null primary key check (id = 1),
    number                bigint not null,
    digest                char(64) not null,
    high_line             bigint not null,
    open_line             text not null,
    high_change           bigint not null,
    open_change           text not null,
    high_span             bigint not null,
    open_span             text not null,
    high_definition       bigint not null,
    open_definition       text not null
);
insert into brume_seal_head (id, number, digest, high_line, open_line, high_change, open_change, high_span, open_span, high_definition,
        open_definition) values (1, 0, repeat('0', 64), 0, '', 0, '', 0, '', 0, '');

-- Versions of definitions and of calendars never change and never go.
create trigger brume_version_insert_only before update or delete or truncate on brume_version
    for each statement execute function brume_row_closed();
create trigger brume_calendar_insert_only before update or delete or truncate on brume_calendar
    for each statement execute function brume_row_closed();

-- What the ledger keeps: the whole of it, job_id 0, and how far each job's own bounds were applied. No job's own bounds remove what
-- is younger than floor_seconds. Before kept_from, lines may have been removed. The columns of this kind on brume_cluster and
-- brume_job.kept_from are read no more: who works on those tables must not shorten what is kept.
create table brume_keep (
    job_id                bigint not null primary key,
    keep_seconds          bigint,
    keep_runs             bigint,
    floor_seconds         bigint,
    kept_from             timestamptz not null,
    kept_at               timestamptz
);
insert into brume_keep (job_id, keep_seconds, keep_runs, kept_from, kept_at)
    select 0, keep_seconds, keep_runs, kept_from, kept_at from brume_cluster where not exists (select 1 from brume_keep);
insert into brume_keep (job_id, kept_from)
    select id, kept_from from brume_job where kept_from > timestamptz '1970-01-01 00:00:00Z'
        and not exists (select 1 from brume_keep k where k.job_id = brume_job.id);
