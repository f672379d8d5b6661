-- Brume, schema 5, PostgreSQL 13 or later: how long the ledger is kept, what is secret in payloads, who ordered a run, what instances know.

-- Bounds of what the ledger keeps: of a job, of all. Before kept_from, lines may have been removed.
alter table brume_job add column keep_seconds bigint;
alter table brume_job add column keep_runs bigint;
alter table brume_job add column kept_from timestamptz default timestamptz '1970-01-01 00:00:00Z' not null;
alter table brume_cluster add column keep_seconds bigint;
alter table brume_cluster add column keep_runs bigint;
alter table brume_cluster add column kept_from timestamptz default timestamptz '1970-01-01 00:00:00Z' not null;

-- When the ledger was last looked through for what is beyond its bounds.
alter table brume_cluster add column kept_at timestamptz;

-- What the ledger says in place of a payload that holds secrets.
alter table brume_run add column shown_payload text;

-- Who ordered a run, if a person or a program did.
alter table brume_run add column ordered_by varchar(200);
alter table brume_ledger add column ordered_by varchar(200);

-- What an instance says of itself: its handlers, one a line, and by how many milliseconds its wall clock is ahead.
alter table brume_session add column handlers text;
alter table brume_session add column ahead_millis bigint default 0 not null;

-- Lines leave the ledger only by retention, which says so to its own transaction; a role that may not delete cannot either way.
create function brume_ledger_kept() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' and current_setting('brume.retention', true) = 'on' then
        return null;
    end if;
    raise exception 'brume_ledger is insert-only: retention alone removes lines';
end $$;
create trigger brume_ledger_no_delete before delete on brume_ledger
    for each statement execute function brume_ledger_kept();
create trigger brume_ledger_no_truncate before truncate on brume_ledger
    for each statement execute function brume_ledger_kept();
