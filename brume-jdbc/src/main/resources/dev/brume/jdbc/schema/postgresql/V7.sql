-- Brume, schema 7, PostgreSQL 13 or later: the change log, spans and outputs are insert-only, too.

create function brume_row_closed() returns trigger language plpgsql as $$
begin
    raise exception '% is insert-only: a row never %', tg_table_name, case tg_op when 'UPDATE' then 'changes' else 'goes' end;
end $$;
create function brume_row_kept() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' and current_setting('brume.retention', true) = 'on' then
        return null;
    end if;
    raise exception '% is insert-only: retention alone removes rows', tg_table_name;
end $$;

-- A line of the change log never changes and never goes.
create trigger brume_change_insert_only before update or delete or truncate on brume_change
    for each statement execute function brume_row_closed();

-- Spans and outputs never change, and go by retention alone.
create trigger brume_span_insert_only before update on brume_span
    for each statement execute function brume_row_closed();
create trigger brume_span_no_delete before delete or truncate on brume_span
    for each statement execute function brume_row_kept();
create trigger brume_output_insert_only before update on brume_output
    for each statement execute function brume_row_closed();
create trigger brume_output_no_delete before delete or truncate on brume_output
    for each statement execute function brume_row_kept();
