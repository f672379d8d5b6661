-- Brume, schema 7, MariaDB 10.6 or later: the change log, spans and outputs are insert-only, too.

-- A line of the change log never changes and never goes.
create trigger if not exists brume_change_no_update before update on brume_change
    for each row signal sqlstate '45000' set message_text = 'brume_change is insert-only: a row never changes';
create trigger if not exists brume_change_no_delete before delete on brume_change
    for each row signal sqlstate '45000' set message_text = 'brume_change is insert-only: a row never goes';

-- Spans and outputs never change, and go by retention alone.
create trigger if not exists brume_span_no_update before update on brume_span
    for each row signal sqlstate '45000' set message_text = 'brume_span is insert-only: a row never changes';
create trigger if not exists brume_output_no_update before update on brume_output
    for each row signal sqlstate '45000' set message_text = 'brume_output is insert-only: a row never changes';
delimiter //
create trigger if not exists brume_span_no_delete before delete on brume_span
    for each row if coalesce(@brume_retention, 0) <> 1 then
        signal sqlstate '45000' set message_text = 'brume_span is insert-only: retention alone removes rows'; end if //
create trigger if not exists brume_output_no_delete before delete on brume_output
    for each row if coalesce(@brume_retention, 0) <> 1 then
        signal sqlstate '45000' set message_text = 'brume_output is insert-only: retention alone removes rows'; end if //
delimiter ;
