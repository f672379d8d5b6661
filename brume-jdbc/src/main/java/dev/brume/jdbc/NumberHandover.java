package dev.brume.jdbc;

import java.util.List;
import java.util.Optional;

/**
 * Hands the giving out of numbers over from the sequences in a database to the file beside it, once. The sequences are used up on the
 * way, so that nobody who does not know of the file draws the same numbers from them.
 */
final class NumberHandover {
    private static final List<String> SEQUENCES = List.of("brume_run_number", "brume_fence_number");

    /** The highest value of a sequence that gives out nothing more; H2 wants one above the lowest. */
    private static final long USED_UP = 2;

    private final Statements sql;
    private final Optional<String> schema;
    private final NumberFile file;

    NumberHandover(Statements sql, Optional<String> schema, NumberFile file) {
        this.sql = sql;
        this.schema = schema;
        this.file = file;
    }

    /** Safe to do again, and beside others who do the same. */
    void run() {
        if (isOver()) {
            if (file.isUnused()) {
                beginAgain();
            }
            return;
        }
        file.goOnFrom(Math.max(nextOf(SEQUENCES.get(0)), afterLastRun()), nextOf(SEQUENCES.get(1)));
        SEQUENCES.forEach(this::useUp);
    }

    private boolean isOver() {
        return sql.first(where("maximum_value"), row -> row.number(1) == USED_UP, schema, SEQUENCES.get(1))
                .orElseThrow();
    }

    private long nextOf(String sequence) {
        return sql.first(where("base_value"), row -> row.number(1), schema, sequence)
                .orElseThrow();
    }

    private static String where(String column) {
        return "select " + column
                + " from information_schema.sequences where lower(sequence_schema) = lower(coalesce(cast(? as varchar),"
                + " current_schema)) and lower(sequence_name) = ?";
    }

    private void useUp(String sequence) {
        sql.execute("alter sequence " + sequence + " restart with " + USED_UP + " minvalue 1 maxvalue " + USED_UP
                + " no cycle");
        sql.query("select next value for " + sequence, row -> row.number(1));
    }

    /** The file was lost: run numbers follow from what is on record, and a new epoch beats every fence there was. */
    private void beginAgain() {
        file.goOnFrom(afterLastRun(), 1);
        sql.update("update brume_cluster set epoch = epoch + 1 where id = 1");
        file.noteEpoch(sql.first("select epoch from brume_cluster where id = 1", row -> row.number(1))
                .orElseThrow());
    }

    private long afterLastRun() {
        return sql.first(
                        "select greatest(coalesce((select max(id) from brume_run), 0), coalesce((select max(run_id) from brume_ledger), 0),"
                                + " coalesce((select max(id) from brume_one_off), 0)) + 1",
                        row -> row.number(1))
                .orElseThrow();
    }
}
