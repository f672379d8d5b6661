-- Brume, schema 7, H2 2.3 or later: the change log, spans and outputs are insert-only, too.

-- A line of the change log never changes and never goes.
create trigger if not exists brume_change_no_update before update on brume_change for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_change_no_delete before delete on brume_change for each row call "dev.brume.jdbc.ClosedLedger";

-- Spans and outputs never change, and go by retention alone.
create trigger if not exists brume_span_no_update before update on brume_span for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_span_no_delete before delete on brume_span for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_output_no_update before update on brume_output for each row call "dev.brume.jdbc.ClosedLedger";
create trigger if not exists brume_output_no_delete before delete on brume_output for each row call "dev.brume.jdbc.ClosedLedger";
