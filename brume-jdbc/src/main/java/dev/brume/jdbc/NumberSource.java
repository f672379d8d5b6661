package dev.brume.jdbc;

import dev.brume.spi.Numbers;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.LongStream;

/** The source of fresh run numbers and fence numbers, and the highest epoch known beside the database. */
interface NumberSource {
    Numbers take(int count);

    List<Long> fences(int count);

    /** {@return the highest epoch noted outside the database, 0 if none} */
    long epoch();

    /** Notes an epoch before the transaction that raises it commits. */
    void noteEpoch(long epoch);

    /** The database's own sequences. */
    record Sequences(Statements sql, Dialect dialect) implements NumberSource {
        @Override
        public Numbers take(int count) {
            List<Long> fences = new ArrayList<>(count);
            List<Long> ids = sql.query(dialect.freshNumbers(count), row -> {
                fences.add(row.number(2));
                return row.number(1);
            });
            return new Numbers(ids, fences);
        }

        @Override
        public List<Long> fences(int count) {
            return sql.query(dialect.freshFences(count), row -> row.number(1));
        }

        @Override
        public long epoch() {
            return 0;
        }

        @Override
        public void noteEpoch(long epoch) {
            // The database keeps it.
        }
    }

    /** A file beside an embedded database. */
    record Beside(NumberFile file) implements NumberSource {
        @Override
        public Numbers take(int count) {
            return new Numbers(row(file.drawRuns(count), count), fences(count));
        }

        @Override
        public List<Long> fences(int count) {
            return row(file.drawFences(count), count);
        }

        private static List<Long> row(long first, int count) {
            return LongStream.range(first, first + count).boxed().toList();
        }

        @Override
        public long epoch() {
            return file.epoch();
        }

        @Override
        public void noteEpoch(long epoch) {
            file.noteEpoch(epoch);
        }
    }
}
