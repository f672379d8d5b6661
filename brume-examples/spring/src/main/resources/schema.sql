create table if not exists booking (
    id          bigint primary key,
    ship        varchar(50) not null,
    arrives     timestamptz not null,
    reminded    integer not null default 0,
    certificate varchar(50)
);
create table if not exists due (
    planned  timestamptz primary key,
    bookings integer not null
);
