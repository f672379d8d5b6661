package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.OptionalInt;

/**
 * How the database itself fares.
 *
 * @param product which database, with its version
 * @param schema the version of the tables; empty where there are none
 * @param ownSchema the version that this software brings
 * @param tzdata the version of the zone rules that next occurrences were computed with; empty if none was noted
 * @param tables how large they are; empty where the store does not tell
 * @param transactions of anyone, that have been open for more than a minute; empty where the store does not tell
 * @param locked jobs that are long due and whose rows others hold
 * @param settings of the server that may lose what was committed
 * @since 0.1.0
 */
public record Health(
        String product,
        OptionalInt schema,
        int ownSchema,
        String tzdata,
        List<Table> tables,
        List<OldTransaction> transactions,
        List<JobName> locked,
        List<Setting> settings) {

    /**
     * A table's size, as the database estimates it.
     *
     * @param name without its schema
     * @param rows that live
     * @param dead rows that are still to be cleaned up
     * @param bytes with its indexes
     * @param cleaned when it was last cleaned up, where the database tells
     */
    public record Table(String name, long rows, long dead, long bytes, Optional<Instant> cleaned) {}

    /**
     * A transaction that has been open for long.
     *
     * @param name by which an administrator finds it
     * @param since when it began
     * @param what who it is and what it does
     */
    public record OldTransaction(String name, Instant since, String what) {}

    /**
     * A setting of the server.
     *
     * @param name as the server calls it
     * @param value what it is
     * @param wanted what it should be
     */
    public record Setting(String name, String value, String wanted) {}
}
