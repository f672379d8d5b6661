-- Brume, schema 5, MariaDB 10.6 or later: how long the ledger is kept, what is secret in payloads, who ordered a run, what instances know.

-- Bounds of what the ledger keeps: of a job, of all. Before kept_from, lines may have been removed.
alter table brume_job add column if not exists keep_seconds bigint;
alter table brume_job add column if not exists keep_runs bigint;
alter table brume_job add column if not exists kept_from datetime(6) default '1970-01-01 00:00:00' not null;
alter table brume_cluster add column if not exists keep_seconds bigint;
alter table brume_cluster add column if not exists keep_runs bigint;
alter table brume_cluster add column if not exists kept_from datetime(6) default '1970-01-01 00:00:00' not null;

-- When the ledger was last looked through for what is beyond its bounds.
alter table brume_cluster add column if not exists kept_at datetime(6);

-- What the ledger says in place of a payload that holds secrets.
alter table brume_run add column if not exists shown_payload longtext;

-- Who ordered a run, if a person or a program did.
alter table brume_run add column if not exists ordered_by varchar(200);
alter table brume_ledger add column if not exists ordered_by varchar(200);

-- What an instance says of itself: its handlers, one a line, and by how many milliseconds its wall clock is ahead.
alter table brume_session add column if not exists handlers longtext;
alter table brume_session add column if not exists ahead_millis bigint default 0 not null;

-- Lines leave the ledger only by retention, which says so to its own connection; a role that may not delete cannot either way.
delimiter //
create trigger if not exists brume_ledger_no_delete before delete on brume_ledger
    for each row if coalesce(@brume_retention, 0) <> 1 then
        signal sqlstate '45000' set message_text = 'brume_ledger is insert-only: retention alone removes lines'; end if //
delimiter ;
