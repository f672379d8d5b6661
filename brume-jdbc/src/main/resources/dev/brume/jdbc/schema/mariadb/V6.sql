-- Brume, schema 6, MariaDB 10.6 or later: seals.

-- Seals: each covers lines of the ledger and of the change log for ever, and the seal before it. line_ids, change_ids: which, as
-- ranges; line_marks, change_marks: a digest of each, in that order.
create table if not exists brume_seal (
    number       bigint       not null primary key,
    sealed_at    datetime(6)  not null,
    sealed_by    varchar(200) not null,
    line_count   integer      not null,
    change_count integer      not null,
    line_ids     longtext     not null,
    line_marks   longtext     not null,
    change_ids   longtext     not null,
    change_marks longtext     not null,
    digest       char(64)     not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create trigger if not exists brume_seal_no_update before update on brume_seal
    for each row signal sqlstate '45000' set message_text = 'brume_seal is insert-only: a seal never changes';
create trigger if not exists brume_seal_no_delete before delete on brume_seal
    for each row signal sqlstate '45000' set message_text = 'brume_seal is insert-only: a seal never goes';

-- One row: where sealing stands, and its lock. Beyond high_run and high_change nothing is sealed; below them, what open_runs and
-- open_changes say: numbers that were not on record yet.
create table if not exists brume_seal_head (
    id           smallint     not null primary key check (id = 1),
    number       bigint       not null,
    digest       char(64)     not null,
    high_run     bigint       not null,
    open_runs    longtext     not null,
    high_change  bigint       not null,
    open_changes longtext     not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
insert into brume_seal_head (id, number, digest, high_run, open_runs, high_change, open_changes)
    select 1, 0, repeat('0', 64), 0, '', 0, '' from dual where not exists (select 1 from brume_seal_head);
