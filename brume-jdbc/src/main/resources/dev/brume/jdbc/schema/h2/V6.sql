-- Brume, schema 6, H2 2.3 or later: seals.

-- Seals: each covers lines of the ledger and of the change log for ever, and the seal before it. line_ids, change_ids: which, as
-- ranges; line_marks, change_marks: a digest of each, in that order.
create table if not exists brume_seal (
    number       bigint       not null primary key,
    sealed_at    timestamp(6) with time zone not null,
    sealed_by    varchar(200) not null,
    line_count   integer      not null,
    change_count integer      not null,
    line_ids     character varying not null,
    line_marks   character varying not null,
    change_ids   character varying not null,
    change_marks character varying not null,
    digest       char(64)     not null
);
create trigger if not exists brume_seal_no_update before update on brume_seal for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_seal_no_delete before delete on brume_seal for each row call "dev.brume.jdbc.ClosedLedger";

-- One row: where sealing stands, and its lock. Beyond high_run and high_change nothing is sealed; below them, what open_runs and
-- open_changes say: numbers that were not on record yet.
create table if not exists brume_seal_head (
    id           smallint     not null primary key check (id = 1),
    number       bigint       not null,
    digest       char(64)     not null,
    high_run     bigint       not null,
    open_runs    character varying not null,
    high_change  bigint       not null,
    open_changes character varying not null
);
insert into brume_seal_head (id, number, digest, high_run, open_runs, high_change, open_changes)
    select 1, 0, repeat('0', 64), 0, '', 0, '' where not exists (select 1 from brume_seal_head);
