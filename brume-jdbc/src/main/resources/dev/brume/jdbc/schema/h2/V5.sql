-- Brume, schema 5, H2 2.3 or later: how long the ledger is kept, what is secret in payloads, who ordered a run, what instances know.

-- Bounds of what the ledger keeps: of a job, of all. Before kept_from, lines may have been removed.
alter table brume_job add column if not exists keep_seconds bigint;
alter table brume_job add column if not exists keep_runs bigint;
alter table brume_job add column if not exists kept_from timestamp(6) with time zone default timestamp with time zone '1970-01-01 00:00:00Z' not null;
alter table brume_cluster add column if not exists keep_seconds bigint;
alter table brume_cluster add column if not exists keep_runs bigint;
alter table brume_cluster add column if not exists kept_from timestamp(6) with time zone default timestamp with time zone '1970-01-01 00:00:00Z' not null;

-- When the ledger was last looked through for what is beyond its bounds.
alter table brume_cluster add column if not exists kept_at timestamp(6) with time zone;

-- What the ledger says in place of a payload that holds secrets.
alter table brume_run add column if not exists shown_payload character varying;

-- Who ordered a run, if a person or a program did.
alter table brume_run add column if not exists ordered_by varchar(200);
alter table brume_ledger add column if not exists ordered_by varchar(200);

-- What an instance says of itself: its handlers, one a line, and by how many milliseconds its wall clock is ahead.
alter table brume_session add column if not exists handlers character varying;
alter table brume_session add column if not exists ahead_millis bigint default 0 not null;

-- A line never changes, and leaves the ledger only by retention, which says so to its own connection.
create trigger if not exists brume_ledger_insert_only before update on brume_ledger for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_ledger_no_delete before delete on brume_ledger for each row call "dev.brume.jdbc.ClosedLedger";
