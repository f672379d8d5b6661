-- Brume, schema 3, H2 2.3 or later: shared gates, one-offs, revisions of definition files, the server's history.
-- H2 commits at each statement, so a script that was cut off is applied again from the top.

-- Which history of itself the database server was in when this was noted; another one means that it may be an older copy.
alter table brume_cluster add column if not exists timeline varchar(40);

-- Which held runs wait at which gate. gates, in runs and settle rows: the gates beside the job's own, as text.
create table if not exists brume_gate_queue (
    run_id     bigint       not null,
    kind       varchar(10)  not null,
    name       varchar(200) not null,
    job_id     bigint       not null,
    priority   smallint     not null,
    planned_at timestamp(6) with time zone not null,
    primary key (run_id, kind, name)
);
create index if not exists brume_gate_queue_order on brume_gate_queue (kind, name, priority, planned_at);
alter table brume_settle add column if not exists gates varchar(2000);

-- One-offs, planned by a key of their own; run_id is set once a run has been made of it, and the key stays taken.
create table if not exists brume_one_off (
    id          bigint generated always as identity (cache 1000) primary key,
    job_id      bigint       not null,
    one_off_key varchar(150) not null,
    due_at      timestamp(6) with time zone not null,
    payload     character varying,
    ordered_by  varchar(200) not null,
    run_id      bigint,
    unique (job_id, one_off_key)
);
create index if not exists brume_one_off_due on brume_one_off (run_id, due_at);

-- The highest revision of each source of definitions.
create table if not exists brume_source (
    name       varchar(500) not null primary key,
    revision   bigint       not null,
    applied_by varchar(200) not null,
    applied_at timestamp(6) with time zone not null
);
