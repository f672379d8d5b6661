-- Brume, schema 8, H2 2.3 or later: seals cover spans, definitions and what runs printed, too; bounds that are the archivist's alone; no TRUNCATE.

-- Numbers, by which seals name spans and versions of definitions.
alter table brume_span add column if not exists id bigint generated always as identity (cache 1000);
create unique index if not exists brume_span_number on brume_span (id);
alter table brume_version add column if not exists id bigint generated always as identity (cache 1000);
create unique index if not exists brume_version_number on brume_version (id);

-- Seals: each covers rows of each kind for ever, and the seal before it. ..._numbers: which, as ranges; ..._marks: a digest of
-- each and the minute that retention goes by, in that order. Seals of the form before, which covered less, do not go on.
drop table if exists brume_no_truncate;
drop table if exists brume_seal;
drop table if exists brume_seal_head;
create table if not exists brume_seal (
    number                bigint not null primary key,
    sealed_at             timestamp(6) with time zone not null,
    sealed_by             varchar(200) not null,
    line_numbers          character varying not null,
    line_marks            character varying not null,
    change_numbers        character varying not null,
    change_marks          character varying not null,
    span_numbers          character varying not null,
    span_marks            character varying not null,
    definition_numbers    character varying not null,
    definition_marks      character varying not null,
    digest                char(64) not null
);
create trigger if not exists brume_seal_no_update before update on brume_seal for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_seal_no_delete before delete on brume_seal for each row call "dev.brume.jdbc.ClosedLedger";

-- One row: where sealing stands, and its lock. Beyond high_... nothing of a kind is sealed; below it, what open_... says: numbers
-- that were not on record yet.
create table if not exists brume_seal_head (
    id                    smallint not null primary key check (id = 1),
    number                bigint not null,
    digest                char(64) not null,
    high_line             bigint not null,
    open_line             character varying not null,
    high_change           bigint not null,
    open_change           character varying not null,
    high_span             bigint not null,
    open_span             character varying not null,
    high_definition       bigint not null,
    open_definition       character varying not null
);
insert into brume_seal_head (id, number, digest, high_line, open_line, high_change, open_change, high_span, open_span, high_definition,
        open_definition)
    select 1, 0, repeat('0', 64), 0, '', 0, '', 0, '', 0, '' where not exists (select 1 from brume_seal_head);

-- Versions of definitions and of calendars never change and never go.
create trigger if not exists brume_version_no_update before update on brume_version for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_version_no_delete before delete on brume_version for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_calendar_no_update before update on brume_calendar for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_calendar_no_delete before delete on brume_calendar for each row call "dev.brume.jdbc.ClosedLedger";

-- What the ledger keeps: the whole of it, job_id 0, and how far each job's own bounds were applied. No job's own bounds remove what
-- is younger than floor_seconds. Before kept_from, lines may have been removed. The columns of this kind on brume_cluster and
-- brume_job.kept_from are read no more: who works on those tables must not shorten what is kept.
create table if not exists brume_keep (
    job_id                bigint not null primary key,
    keep_seconds          bigint,
    keep_runs             bigint,
    floor_seconds         bigint,
    kept_from             timestamp(6) with time zone not null,
    kept_at               timestamp(6) with time zone
);
insert into brume_keep (job_id, keep_seconds, keep_runs, kept_from, kept_at)
    select 0, keep_seconds, keep_runs, kept_from, kept_at from brume_cluster where not exists (select 1 from brume_keep);
insert into brume_keep (job_id, kept_from)
    select id, kept_from from brume_job where kept_from > timestamp with time zone '1970-01-01 00:00:00Z'
        and not exists (select 1 from brume_keep k where k.job_id = brume_job.id);

-- TRUNCATE fires no trigger, but a table that another one refers to cannot be emptied that way. Nothing is ever put in here.
alter table brume_ledger add constraint if not exists brume_ledger_once unique (planned_at, job_id, slot);
create table if not exists brume_no_truncate (
    line_at        timestamp(6) with time zone,
    line_job       bigint,
    line_slot      varchar(200),
    output_run     bigint,
    output_attempt integer,
    span_job       bigint,
    span_at        timestamp(6) with time zone,
    version_job    bigint,
    version_number integer,
    change_id      bigint,
    seal_number    bigint,
    foreign key (line_at, line_job, line_slot) references brume_ledger (planned_at, job_id, slot),
    foreign key (output_run, output_attempt) references brume_output (run_id, attempt),
    foreign key (span_job, span_at) references brume_span (job_id, from_at),
    foreign key (version_job, version_number) references brume_version (job_id, number),
    foreign key (change_id) references brume_change (id),
    foreign key (seal_number) references brume_seal (number)
);
