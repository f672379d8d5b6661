-- Brume, schema 6, PostgreSQL 13 or later: looking into a large ledger, seals.

-- What people look for is what did not go well, or was not owed by a schedule; that is little.
create index brume_ledger_notable on brume_ledger (planned_at)
    where outcome <> 'SUCCEEDED' or origin <> 'SCHEDULE';

-- In which stretches of the ledger an instance comes up at all: next to nothing to keep, and all it takes for those that are long
-- gone. Version 13 does not have the kind of index that can tell.
do $$ begin
    if current_setting('server_version_num')::int >= 140000 then
        execute 'create index brume_ledger_stretches on brume_ledger using brin
            (instance text_bloom_ops(n_distinct_per_range = 50)) with (pages_per_range = 64, autosummarize = on)';
    end if;
end $$;

-- Seals: each covers lines of the ledger and of the change log for ever, and the seal before it. line_ids, change_ids: which, as
-- ranges; line_marks, change_marks: a digest of each, in that order.
create table brume_seal (
    number       bigint       not null primary key,
    sealed_at    timestamptz  not null,
    sealed_by    varchar(200) not null,
    line_count   integer      not null,
    change_count integer      not null,
    line_ids     text         not null,
    line_marks   text         not null,
    change_ids   text         not null,
    change_marks text         not null,
    digest       char(64)     not null
);
create trigger brume_seal_insert_only before update or delete or truncate on brume_seal
    for each statement execute function brume_ledger_closed();

-- One row: where sealing stands, and its lock. Beyond high_run and high_change nothing is sealed; below them, what open_runs and
-- open_changes say: numbers that were not on record yet.
create table brume_seal_head (
    id           smallint     not null primary key check (id = 1),
    number       bigint       not null,
    digest       char(64)     not null,
    high_run     bigint       not null,
    open_runs    text         not null,
    high_change  bigint       not null,
    open_changes text         not null
);
insert into brume_seal_head (id, number, digest, high_run, open_runs, high_change, open_changes)
    values (1, 0, repeat('0', 64), 0, '', 0, '');
