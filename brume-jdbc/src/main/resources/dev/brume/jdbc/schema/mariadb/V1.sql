-- Brume, schema 1, MariaDB 10.6 or later.
-- MariaDB commits at each statement, so a script that was cut off is applied again from the top.
-- All instants are UTC, as local times; text compares by its bytes. From 0.1.0 on scripts only add: versions N and N-1 of the software work side by side.

-- One row: the lock point of definers, and the epoch, which rises when the database turns out to be an older copy.
create table if not exists brume_cluster (
    id         smallint not null primary key check (id = 1),
    epoch      bigint not null,
    created_at datetime(6) not null,
    tzdata     varchar(50),
    -- Which history of itself the database server was in when this was noted; another one means that it may be an older copy.
    timeline   varchar(40)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
insert into brume_cluster (id, epoch, created_at)
    select 1, 0, utc_timestamp(6) from dual where not exists (select 1 from brume_cluster);

-- Fresh run ids, and fence numbers that rise with every lease.
create sequence if not exists brume_run_number;
create sequence if not exists brume_fence_number;

-- One row for each life of an instance. state: OPEN -> DRAINING -> ENDED, or LAPSED -> ENDED when others took over.
create table if not exists brume_session (
    id           char(36) character set ascii not null primary key,
    instance     varchar(100) not null,
    host         varchar(255) not null,
    pid          bigint not null,
    lanes        varchar(2000) not null,
    software     varchar(100) not null,
    tzdata       varchar(50) not null,
    epoch        bigint not null,
    state        varchar(10) not null,
    opened_at    datetime(6) not null,
    renewed_at   datetime(6) not null,
    lease_until  datetime(6) not null,
    ended_at     datetime(6),
    draining_at  datetime(6),
    labels       varchar(2000),
    -- What an instance says of itself: its handlers, one a line, and by how many milliseconds its wall clock is ahead.
    handlers     longtext,
    ahead_millis bigint default 0 not null,
    -- How its process was when it was renewed last: heap and its limit in megabytes, load of its machine, processors.
    vitals       varchar(100)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Lives that ended long ago; kept as long as the ledger, since they say who was there.
create table if not exists brume_past_session (
    id           char(36) character set ascii not null primary key,
    instance     varchar(100) not null,
    host         varchar(255) not null,
    pid          bigint not null,
    lanes        varchar(2000) not null,
    software     varchar(100) not null,
    tzdata       varchar(50) not null,
    epoch        bigint not null,
    state        varchar(10) not null,
    opened_at    datetime(6) not null,
    renewed_at   datetime(6) not null,
    lease_until  datetime(6) not null,
    ended_at     datetime(6),
    draining_at  datetime(6),
    labels       varchar(2000),
    handlers     longtext,
    ahead_millis bigint not null,
    vitals       varchar(100)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- A job: its cursor, its lock point, and its gate of cap places. live_key is null once it is dropped.
create table if not exists brume_job (
    id            bigint not null auto_increment primary key,
    namespace     varchar(100) not null,
    name          varchar(100) not null,
    live_key      varchar(201) unique,
    version       integer not null,
    source        varchar(500) not null,
    cursor_at     datetime(6) not null,
    next_at       datetime(6),
    cap           integer not null,
    -- The run that was planned last, and the newest that is known to have ended. As long as a job is not crowded, its newest run alone
    -- can be live: places are counted from live runs, not kept here, so that most ends leave this row alone.
    newest_run    bigint,
    ended_run     bigint,
    crowded       smallint default 0 not null,
    dropped_at    datetime(6),
    -- When the application was built whose definition is in force; empty if it is not by its build that definitions are ordered.
    built_at      datetime(6),
    -- A schedule that goes by the ends of runs is due at end_due_at, or waits for the end of end_run.
    end_due_at    datetime(6),
    end_run       bigint,
    -- Which format of definitions a reader must know; jobs beyond its own an older instance leaves to newer ones.
    format        smallint default 1 not null,
    -- Whose workers run it: those who serve the lane divide its jobs among them by their ids, modulo 64.
    lane          varchar(100) not null,
    -- A paused job (1, or 2 if nothing is made up for) owes nothing for now: next_at is when the pause ends, if it does by itself.
    -- turn_at: then, or when the next pause begins. Never is next_at later.
    paused        smallint default 0 not null,
    turn_at       datetime(6),
    -- Bounds that the job states for what the ledger keeps of it.
    keep_seconds  bigint,
    keep_runs     bigint,
    -- 1 if it states a deadline, or how long it may go without a success.
    watched       smallint
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_job_watched on brume_job (watched);
create index if not exists brume_job_due on brume_job (next_at);

-- Definitions, as JSON; never changed once written.
create table if not exists brume_definition (
    job_id     bigint not null,
    number     integer not null,
    definition longtext not null,
    source     varchar(500) not null,
    defined_at datetime(6) not null,
    -- pins: as JSON, from when limits count and which versions of calendars a version of a definition goes by.
    pins       longtext,
    tzdata     varchar(50),
    id         bigint not null auto_increment unique,
    primary key (job_id, number)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Versions of definitions and of calendars never change and never go.
create trigger if not exists brume_definition_no_update before update on brume_definition
    for each row signal sqlstate '45000' set message_text = 'brume_definition is insert-only: a row never changes';
create trigger if not exists brume_definition_no_delete before delete on brume_definition
    for each row signal sqlstate '45000' set message_text = 'brume_definition is insert-only: a row never goes';

-- One row: until when somebody waits for ends of runs elsewhere, so that whoever ends runs calls.
create table if not exists brume_awaiting (
    id       smallint not null primary key check (id = 1),
    until_at datetime(6)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
insert into brume_awaiting (id) select 1 from dual where not exists (select 1 from brume_awaiting);

-- Names that jobs had, and until when. A job's first name is the one that its lines are sealed with.
create table if not exists brume_former_name (
    job_id   bigint not null,
    until_at datetime(6) not null,
    name_key varchar(201) not null,
    primary key (job_id, until_at),
    key brume_former_name_key (name_key)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Gates beside the jobs' own: exclusion keys and limits.
create table if not exists brume_gate (
    kind varchar(10) not null,
    name varchar(201) not null,
    cap  integer not null,
    used integer not null,
    -- Of a limit with a rate: how many runs may begin in how many seconds, those that still count, and when whoever waits is looked at.
    starts      integer,
    per_seconds integer,
    begun       varchar(4000),
    opens_at    datetime(6),
    primary key (kind, name),
    key brume_gate_opens (opens_at)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Live runs. state: PLANNED, WAITING, RUNNING, BACKING_OFF. Every state but WAITING has its job's place.
create table if not exists brume_run (
    id            bigint not null primary key,
    job_id        bigint not null,
    planned_at    datetime(6) not null,
    slot          varchar(200) not null default '',
    origin        varchar(12) not null,
    nominal       varchar(30) not null,
    zone          varchar(60) not null,
    note          varchar(100),
    version       integer not null,
    state         varchar(12) not null,
    lane          varchar(100) not null,
    priority      smallint not null,
    handler       varchar(200),
    ready_at      datetime(6) not null,
    session_id    char(36) character set ascii,
    fence         bigint,
    leased_at     datetime(6),
    attempts      longtext,
    attempt       integer not null,
    payload       longtext,
    one_off_key   varchar(200),
    parent_run    bigint,
    follow_up     varchar(200),
    gates         varchar(2000),
    stop_asked    varchar(20),
    claimable_at  datetime(6) generated always as (case when state in ('PLANNED', 'BACKING_OFF') then ready_at end) virtual,
    -- By when a run that waits must have begun; empty once it has.
    start_by      datetime(6),
    -- What an instance must have to be given a run, beside the handler: labels, each between strokes; being one session.
    labels        varchar(1000),
    only_session  char(36),
    -- How far a running run says that it is, in percent and words.
    progress      smallint,
    message       varchar(200),
    -- What the attempt under this fence has printed so far: the end of it, how many bytes in all, and how many of them are left out.
    printed       longtext,
    printed_bytes bigint,
    printed_left  bigint,
    printed_fence bigint,
    -- What the ledger says in place of a payload that holds secrets.
    shown_payload longtext,
    -- Who ordered a run, if a person or a program did.
    ordered_by    varchar(200),
    -- The trace contexts (W3C traceparent) of what ordered it and what planned it.
    traces        varchar(120) character set ascii,
    -- Whether somebody waits for its end, which is settled then.
    awaited       smallint default 0 not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create unique index if not exists brume_run_owed on brume_run (job_id, planned_at, slot);
create index if not exists brume_run_ready on brume_run (lane, priority, claimable_at);
create index if not exists brume_run_session on brume_run (session_id);
create index if not exists brume_run_one_off on brume_run (job_id, one_off_key);
create unique index if not exists brume_run_follow_up on brume_run (parent_run, follow_up);
create index if not exists brume_run_start_by on brume_run (start_by);

-- How runs ended; insert-only. The last attempt has columns of its own, earlier ones are JSON.
create table if not exists brume_ledger (
    run_id      bigint not null,
    job_id      bigint not null,
    planned_at  datetime(6) not null,
    slot        varchar(200) not null,
    origin      varchar(12) not null,
    nominal     varchar(30) not null,
    zone        varchar(60) not null,
    note        varchar(100),
    version     integer not null,
    lane        varchar(100) not null,
    ready_at    datetime(6) not null,
    outcome     varchar(10) not null,
    reason      varchar(60),
    attempt     integer not null,
    instance    varchar(100),
    session_id  char(36) character set ascii,
    fence       bigint,
    started_at  datetime(6),
    ended_at    datetime(6),
    earlier     longtext,
    one_off_key varchar(200),
    parent_run  bigint,
    follow_up   varchar(200),
    recorded_at datetime(6) not null,
    ordered_by  varchar(200),
    -- The trace context of the attempt that ended it.
    trace       varchar(55) character set ascii
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create unique index if not exists brume_ledger_owed on brume_ledger (planned_at, job_id, slot);
create index if not exists brume_ledger_run on brume_ledger (run_id);
create index if not exists brume_ledger_one_off on brume_ledger (job_id, one_off_key);
create unique index if not exists brume_ledger_follow_up on brume_ledger (parent_run, follow_up);
create trigger if not exists brume_ledger_insert_only before update on brume_ledger
    for each row signal sqlstate '45000' set message_text = 'brume_ledger is insert-only: a row never changes';

-- Lines leave the ledger only by retention, which says so to its own connection; a role that may not delete cannot either way.
delimiter //
create trigger if not exists brume_ledger_no_delete before delete on brume_ledger
    for each row if coalesce(@brume_retention, 0) <> 1 then
        signal sqlstate '45000' set message_text = 'brume_ledger is insert-only: retention alone removes lines'; end if //
delimiter ;

-- What ended runs were given, returned and failed of, where they were or did: beside the ledger, so that it can be erased. error is that
-- of the last attempt; errors are those of the earlier ones, as JSON by attempt.
create table if not exists brume_content (
    run_id     bigint not null primary key,
    planned_at datetime(6) not null,
    payload    longtext,
    result     longtext,
    error      longtext,
    errors     longtext
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create trigger if not exists brume_content_no_update before update on brume_content
    for each row signal sqlstate '45000' set message_text = 'brume_content is insert-only: a row never changes';
delimiter //
create trigger if not exists brume_content_no_delete before delete on brume_content
    for each row if coalesce(@brume_retention, 0) <> 1 then
        signal sqlstate '45000' set message_text = 'brume_content is insert-only: retention alone removes rows'; end if //
delimiter ;

-- What attempts printed; beside the ledger, so that it can be trimmed.
create table if not exists brume_output (
    run_id     bigint not null,
    planned_at datetime(6) not null,
    attempt    integer not null,
    body       longtext not null,
    bytes      bigint not null,
    omitted    bigint not null,
    primary key (run_id, attempt)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create trigger if not exists brume_output_no_update before update on brume_output
    for each row signal sqlstate '45000' set message_text = 'brume_output is insert-only: a row never changes';
delimiter //
create trigger if not exists brume_output_no_delete before delete on brume_output
    for each row if coalesce(@brume_retention, 0) <> 1 then
        signal sqlstate '45000' set message_text = 'brume_output is insert-only: retention alone removes rows'; end if //
delimiter ;

-- Runs whose content was erased, with the digests of what there was: a seal over the line holds as before.
create table if not exists brume_erasure (
    run_id    bigint not null primary key,
    erased_at datetime(6) not null,
    who       varchar(200) not null,
    because   varchar(500) not null,
    content   longtext not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create trigger if not exists brume_erasure_no_update before update on brume_erasure
    for each row signal sqlstate '45000' set message_text = 'brume_erasure is insert-only: a row never changes';
delimiter //
create trigger if not exists brume_erasure_no_delete before delete on brume_erasure
    for each row if coalesce(@brume_retention, 0) <> 1 then
        signal sqlstate '45000' set message_text = 'brume_erasure is insert-only: retention alone removes rows'; end if //
delimiter ;

-- Ends whose consequences are still to be drawn. A row that looks has no end: somebody is to see whether a waiting run may go.
create table if not exists brume_settle (
    run_id   bigint not null,
    looks    smallint default 0 not null,
    job_id   bigint not null,
    outcome  varchar(10),
    ended_at datetime(6),
    gates    varchar(2000),
    -- A run that ended while it waited for one has no place to give back.
    waited   smallint default 0 not null,
    -- What follows a run is known from the version that it ran under; 0 where an older instance ended it.
    version  integer default 0 not null,
    -- The trace context of the attempt that ended it, for what follows.
    trace    varchar(55) character set ascii,
    primary key (run_id, looks)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Occurrences passed over together: half-open, never overlapping.
create table if not exists brume_span (
    job_id      bigint not null,
    from_at     datetime(6) not null,
    until_at    datetime(6) not null,
    version     integer not null,
    first_at    datetime(6) not null,
    last_at     datetime(6) not null,
    occurrences bigint not null,
    reason      varchar(60) not null,
    -- Numbers, by which seals name spans and versions of definitions.
    id          bigint not null auto_increment unique,
    primary key (job_id, from_at)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Spans and outputs never change, and go by retention alone.
create trigger if not exists brume_span_no_update before update on brume_span
    for each row signal sqlstate '45000' set message_text = 'brume_span is insert-only: a row never changes';
delimiter //
create trigger if not exists brume_span_no_delete before delete on brume_span
    for each row if coalesce(@brume_retention, 0) <> 1 then
        signal sqlstate '45000' set message_text = 'brume_span is insert-only: retention alone removes rows'; end if //
delimiter ;

-- Who changed or ordered what.
create table if not exists brume_change (
    id             bigint not null auto_increment primary key,
    at             datetime(6) not null,
    kind           varchar(20) not null,
    who            varchar(200) not null,
    host           varchar(255) not null,
    job            varchar(201),
    version_before integer,
    version_after  integer,
    body           longtext not null,
    -- Why an order was given, in the words of who gave it.
    because        varchar(500) default '' not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- A line of the change log never changes and never goes.
create trigger if not exists brume_change_no_update before update on brume_change
    for each row signal sqlstate '45000' set message_text = 'brume_change is insert-only: a row never changes';
create trigger if not exists brume_change_no_delete before delete on brume_change
    for each row signal sqlstate '45000' set message_text = 'brume_change is insert-only: a row never goes';

-- Calendars, as JSON; versions are never changed once written.
create table if not exists brume_calendar (
    namespace  varchar(100) not null,
    name       varchar(100) not null,
    number     integer not null,
    content    longtext not null,
    source     varchar(500) not null,
    defined_at datetime(6) not null,
    primary key (namespace, name, number)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create trigger if not exists brume_calendar_no_update before update on brume_calendar
    for each row signal sqlstate '45000' set message_text = 'brume_calendar is insert-only: a row never changes';
create trigger if not exists brume_calendar_no_delete before delete on brume_calendar
    for each row signal sqlstate '45000' set message_text = 'brume_calendar is insert-only: a row never goes';

-- Which version of a calendar a job's definition in force goes by; 0 where it was missing.
create table if not exists brume_calendar_use (
    job_id    bigint not null,
    namespace varchar(100) not null,
    name      varchar(100) not null,
    number    integer not null,
    primary key (job_id, name)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_calendar_use_name on brume_calendar_use (namespace, name, number);

-- Which runs wait at which gate. gates, in runs and settle rows: the gates beside the job's own, as text.
create table if not exists brume_gate_queue (
    run_id     bigint not null,
    kind       varchar(10) not null,
    name       varchar(201) not null,
    job_id     bigint not null,
    priority   smallint not null,
    planned_at datetime(6) not null,
    primary key (run_id, kind, name)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_gate_queue_order on brume_gate_queue (kind, name, priority, planned_at);

-- One-offs by their keys, the latest of each: id is the number of the run that it becomes, drawn when it is ordered. Once that is made the
-- row stays as long as the run is on record, so that the same order is known again; another instant makes it the next one.
create table if not exists brume_one_off (
    id          bigint not null primary key,
    job_id      bigint not null,
    one_off_key varchar(150) not null,
    due_at      datetime(6) not null,
    payload     longtext,
    ordered_by  varchar(200) not null,
    made        smallint default 0 not null,
    -- At most one run at once of all one-offs that name it.
    exclusive   varchar(201),
    -- A one-off that the end of a run has ordered; it is removed once a run has been made of it.
    parent_run  bigint,
    -- The trace context of what ordered it.
    trace       varchar(55) character set ascii,
    unique (job_id, one_off_key)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_one_off_due on brume_one_off (made, due_at);

-- What the jobs of a namespace may be and use, as JSON; a namespace that is not here may do anything.
create table if not exists brume_allowance (
    namespace varchar(100) not null primary key,
    body      longtext not null,
    set_at    datetime(6) not null,
    set_by    varchar(200) not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- The highest revision of each source of definitions.
create table if not exists brume_source (
    name       varchar(500) not null primary key,
    revision   bigint not null,
    applied_by varchar(200) not null,
    applied_at datetime(6) not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Pauses that ended, are in force, or are to come: of one job, of all that carry a tag, of a namespace, of everything. until_at is empty
-- until somebody ends it. owed: AS_DEFINED or LEFT_OUT. calendar and zone: whose days it was made of.
create table if not exists brume_pause (
    id                 bigint not null auto_increment primary key,
    kind               varchar(12) not null,
    name               varchar(201) not null,
    since_at           datetime(6) not null,
    until_at           datetime(6),
    owed               varchar(12) not null,
    calendar_namespace varchar(100),
    calendar           varchar(100),
    zone               varchar(60),
    who                varchar(200) not null,
    because            varchar(500) not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Runs whose holders are asked to stop them.
create table if not exists brume_stop (
    run_id bigint not null primary key,
    why    varchar(12) not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Which jobs follow a job's runs, by its definition in force. follows: SUCCESS, FAILURE or END.
create table if not exists brume_follow_up (
    job_id  bigint not null,
    target  varchar(201) not null,
    follows varchar(10) not null,
    primary key (job_id, target)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Requests of programs that carry a key, so that one that is sent again is not done again. Without an answer, it is still to be done.
create table if not exists brume_request (
    principal   varchar(200) not null,
    namespace   varchar(100) not null,
    operation   varchar(60) not null,
    request_key varchar(200) not null,
    -- Of what was asked for: the same key with another digest is refused.
    digest      varchar(64) not null,
    begun_at    datetime(6) not null,
    answer      longtext,
    -- As long as this run is on record, and for a day at least, so is the request.
    run_id      bigint,
    primary key (principal, namespace, operation, request_key)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_request_begun on brume_request (begun_at);

-- Tokens by name, of which only a digest is kept: SHA-256. namespaces: with spaces between them; none for everywhere.
create table if not exists brume_token (
    name       varchar(100) not null primary key,
    digest     varchar(64) not null,
    role_name  varchar(10) not null,
    namespaces longtext not null,
    added_at   datetime(6) not null,
    added_by   varchar(200) not null,
    until_at   datetime(6),
    revoked_at datetime(6),
    unique (digest)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Who has signed in on a page, with the digest of what they were given; token: whose holder they are, with which it ends.
create table if not exists brume_sign_in (
    digest     varchar(64) not null primary key,
    who        varchar(200) not null,
    role_name  varchar(10) not null,
    namespaces longtext not null,
    token      varchar(100),
    begun_at   datetime(6) not null,
    until_at   datetime(6) not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_sign_in_until on brume_sign_in (until_at);

-- Leases by name, for code that brings its own timer. Held while until_at lies ahead; to be had again from free_at on.
create table if not exists brume_named_lease (
    name       varchar(201) not null primary key,
    holder     varchar(200) not null,
    fence      bigint not null,
    taken_at   datetime(6) not null,
    renewed_at datetime(6) not null,
    until_at   datetime(6) not null,
    free_at    datetime(6) not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- The feed of changes, for those who follow: a row a transaction, while somebody does. Numbers come afterwards, in the order of what
-- was committed; body: the changes, as JSON.
create table if not exists brume_feed (
    id     bigint not null auto_increment primary key,
    number bigint,
    fed_at datetime(6) not null,
    body   longtext not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_feed_number on brume_feed (number, id);

-- One row: up to where the feed has numbers, and the lock of whoever gives them. Before kept_from, something is missing. Until
-- listened_until somebody follows; what was committed before settles_at may not know that yet.
create table if not exists brume_feed_head (
    id             smallint not null primary key check (id = 1),
    number         bigint not null,
    kept_from      bigint not null,
    listened_until datetime(6),
    settles_at     datetime(6)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
insert into brume_feed_head (id, number, kept_from) select 1, 0, 1 from dual where not exists (select 1 from brume_feed_head);

-- One row: the lock of whoever decides what is told. version: rises with every change of channels or rules; wants: what is noted when it happens.
create table if not exists brume_notice_head (
    id         smallint not null primary key check (id = 1),
    version    bigint not null,
    wants      varchar(200) not null,
    watched_at datetime(6),
    tidied_at  datetime(6)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
insert into brume_notice_head (id, version, wants) select 1, 0, '' from dual where not exists (select 1 from brume_notice_head);

-- What a source says about notices, its channels and rules, as JSON; versions never change.
create table if not exists brume_telling (
    source     varchar(500) not null,
    number     integer not null,
    content    longtext not null,
    defined_at datetime(6) not null,
    primary key (source, number)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create trigger if not exists brume_telling_no_update before update on brume_telling
    for each row signal sqlstate '45000' set message_text = 'brume_telling is insert-only: a row never changes';
create trigger if not exists brume_telling_no_delete before delete on brume_telling
    for each row signal sqlstate '45000' set message_text = 'brume_telling is insert-only: a row never goes';

-- What happened and may have to be told: a row a transaction, as JSON, until somebody has decided about it.
create table if not exists brume_notable (
    id       bigint not null auto_increment primary key,
    noted_at datetime(6) not null,
    body     longtext not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Causes of notices: what is wrong with something. next_at: when what has come again is told together; body: what was told so far, as JSON.
create table if not exists brume_cause (
    cause_key varchar(400) not null primary key,
    job_id    bigint,
    opened_at datetime(6) not null,
    last_at   datetime(6) not null,
    closed_at datetime(6),
    next_at   datetime(6),
    body      longtext not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_cause_next on brume_cause (next_at);
create index if not exists brume_cause_open on brume_cause (closed_at, last_at);

-- Notices and how their delivery stands. state: WAITING, DELIVERED, UNDELIVERED. holder: the process that sends it, until leased_until.
create table if not exists brume_notice (
    number       bigint not null auto_increment primary key,
    id           varchar(64) not null unique,
    cause_key    varchar(400) not null,
    channel      varchar(201) not null,
    kind         varchar(30) not null,
    decided_at   datetime(6) not null,
    body         longtext not null,
    state        varchar(12) not null,
    attempts     integer not null,
    next_at      datetime(6) not null,
    give_up_at   datetime(6) not null,
    problem      varchar(1000),
    holder       varchar(40),
    leased_until datetime(6),
    settled_at   datetime(6)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_notice_next on brume_notice (state, next_at);
create index if not exists brume_notice_cause on brume_notice (cause_key, channel, state);

-- Numbers of places that gates had before: what was in force at an instant of the past.
create table if not exists brume_past_gate (
    kind     varchar(10) not null,
    name     varchar(201) not null,
    cap      integer not null,
    until_at datetime(6) not null,
    primary key (kind, name, until_at)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- When runs waited for a place; until_at is empty as long as they do.
create table if not exists brume_wait (
    run_id   bigint not null primary key,
    since_at datetime(6) not null,
    until_at datetime(6)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;

-- Seals: each covers rows of each kind for ever, and the seal before it. ..._numbers: which, as ranges; ..._marks: a digest of each and
-- the minute that retention goes by, in that order.
create table if not exists brume_seal (
    number             bigint not null primary key,
    sealed_at          datetime(6) not null,
    sealed_by          varchar(200) not null,
    line_numbers       longtext not null,
    line_marks         longtext not null,
    change_numbers     longtext not null,
    change_marks       longtext not null,
    span_numbers       longtext not null,
    span_marks         longtext not null,
    definition_numbers longtext not null,
    definition_marks   longtext not null,
    digest             char(64) not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create trigger if not exists brume_seal_no_update before update on brume_seal
    for each row signal sqlstate '45000' set message_text = 'brume_seal is insert-only: a row never changes';
create trigger if not exists brume_seal_no_delete before delete on brume_seal
    for each row signal sqlstate '45000' set message_text = 'brume_seal is insert-only: a row never goes';

-- One row: where sealing stands, and its lock. Beyond high_... nothing of a kind is sealed; below it, what open_... says: numbers
-- that were not on record yet.
create table if not exists brume_seal_head (
    id              smallint not null primary key check (id = 1),
    number          bigint not null,
    digest          char(64) not null,
    high_line       bigint not null,
    open_line       longtext not null,
    high_change     bigint not null,
    open_change     longtext not null,
    high_span       bigint not null,
    open_span       longtext not null,
    high_definition bigint not null,
    open_definition longtext not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
insert into brume_seal_head (id, number, digest, high_line, open_line, high_change, open_change, high_span, open_span, high_definition,
        open_definition)
    select 1, 0, repeat('0', 64), 0, '', 0, '', 0, '', 0, '' from dual where not exists (select 1 from brume_seal_head);

-- The ledger summed up: a row for each day of a job, the sums of the whole of it and of its hours, as LineSumsText writes them. What is in it can be made again from
-- the ledger. Lines are added once, by number: beyond high_line none is in it, below it all but those in open_line.
create table if not exists brume_roll_up (
    day_at datetime(6) not null,
    job_id bigint not null,
    whole  longtext not null,
    hours  longtext not null,
    primary key (day_at, job_id)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
create index if not exists brume_roll_up_job on brume_roll_up (job_id, day_at);
create table if not exists brume_roll_up_head (
    id        smallint not null primary key check (id = 1),
    high_line bigint not null,
    open_line longtext not null
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
insert into brume_roll_up_head (id, high_line, open_line)
    select 1, 0, '' from dual where not exists (select 1 from brume_roll_up_head);

-- What the ledger keeps: the whole of it, job_id 0, and how far each job's own bounds were applied. No job's own bounds remove what
-- is younger than floor_seconds. Before kept_from, lines may have been removed.
create table if not exists brume_keep (
    job_id        bigint not null primary key,
    keep_seconds  bigint,
    keep_runs     bigint,
    floor_seconds bigint,
    kept_from     datetime(6) not null,
    kept_at       datetime(6)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
insert into brume_keep (job_id, kept_from)
    select 0, '1970-01-01 00:00:00' from dual where not exists (select 1 from brume_keep);

-- TRUNCATE fires no trigger, but a table that another one refers to cannot be emptied that way. Nothing is ever put in here.
create table if not exists brume_no_truncate (
    line           bigint,
    output_run     bigint,
    output_attempt integer,
    span_job       bigint,
    span_at        datetime(6),
    version_job    bigint,
    version_number integer,
    change_id      bigint,
    seal_number    bigint,
    erased_run     bigint,
    content_run    bigint,
    foreign key (line) references brume_ledger (run_id),
    foreign key (output_run, output_attempt) references brume_output (run_id, attempt),
    foreign key (span_job, span_at) references brume_span (job_id, from_at),
    foreign key (version_job, version_number) references brume_definition (job_id, number),
    foreign key (change_id) references brume_change (id),
    foreign key (seal_number) references brume_seal (number),
    foreign key (erased_run) references brume_erasure (run_id),
    foreign key (content_run) references brume_content (run_id)
) engine = InnoDB default character set utf8mb4 collate utf8mb4_nopad_bin;
