-- Brume, schema 3, PostgreSQL 13 or later: shared gates, one-offs, revisions of definition files, the server's history.

-- Which history of itself the database server was in when this was noted; another one means that it may be an older copy.
alter table brume_cluster add column timeline varchar(40);
update brume_cluster set timeline = substr(pg_walfile_name(pg_current_wal_insert_lsn()), 1, 8);

-- Which held runs wait at which gate. gates, in runs and settle rows: the gates beside the job's own, as text.
create table brume_gate_queue (
    run_id     bigint       not null,
    kind       varchar(10)  not null,
    name       varchar(200) collate "C" not null,
    job_id     bigint       not null,
    priority   smallint     not null,
    planned_at timestamptz not null,
    primary key (run_id, kind, name)
);
create index brume_gate_queue_order on brume_gate_queue (kind, name, priority, planned_at);
alter table brume_settle add column gates varchar(2000);

-- One-offs, planned by a key of their own; run_id is set once a run has been made of it, and the key stays taken.
create table brume_one_off (
    id          bigint generated always as identity primary key,
    job_id      bigint       not null,
    one_off_key varchar(150) collate "C" not null,
    due_at      timestamptz not null,
    payload     text,
    ordered_by  varchar(200) not null,
    run_id      bigint,
    unique (job_id, one_off_key)
);
create index brume_one_off_due on brume_one_off (due_at) where run_id is null;

-- The highest revision of each source of definitions.
create table brume_source (
    name       varchar(500) not null primary key,
    revision   bigint       not null,
    applied_by varchar(200) not null,
    applied_at timestamptz not null
);
