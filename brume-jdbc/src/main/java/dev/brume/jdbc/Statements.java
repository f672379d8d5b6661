package dev.brume.jdbc;

import dev.brume.internal.text.Texts;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;

/**
 * Runs statements on one connection; checked exceptions become {@link UncheckedSql}. Confined to one
 * thread.
 */
final class Statements {
    private static final int FETCHED_AT_ONCE = 2000;

    /** How many values an IN list takes at once. */
    private static final int CHUNK = 512;

    /** H2 compares each row that it finds with the whole list once more. */
    private static final int CHUNK_ON_H2 = 64;

    private final Connection connection;
    private final Dialect dialect;
    private final UnaryOperator<String> naming;
    private int seconds;

    Statements(Connection connection, Dialect dialect, UnaryOperator<String> naming) {
        this.connection = connection;
        this.dialect = dialect;
        this.naming = naming;
    }

    /** Limits how long each query may last, where neither a transaction nor the database does. */
    Statements within(Duration most) {
        seconds = dialect.limitsQueries() ? (int) Math.max(1, most.toSeconds()) : 0;
        return this;
    }

    /** Carries an SQL error through code that declares none. */
    static final class UncheckedSql extends RuntimeException {
        private static final long serialVersionUID = 1L;

        private final SQLException sql;

        UncheckedSql(SQLException sql) {
            super(sql);
            this.sql = sql;
        }

        SQLException sql() {
            return sql;
        }
    }

    /** Reads one row. */
    interface Mapper<T> {
        T map(Row row) throws SQLException;
    }

    /** Sets the parameters of one row. */
    interface Binder<T> {
        void bind(Parameters parameters, T item) throws SQLException;
    }

    /** Sets parameters in order. */
    static final class Parameters {
        private final PreparedStatement statement;
        private final Dialect dialect;
        private int index;

        Parameters(PreparedStatement statement, Dialect dialect) {
            this.statement = statement;
            this.dialect = dialect;
        }

        Parameters add(@Nullable Object value) throws SQLException {
            statement.setObject(++index, plain(value));
            return this;
        }

        /** Sets any number of values, one parameter each. */
        Parameters all(Object... values) throws SQLException {
            for (Object value : values) {
                add(value);
            }
            return this;
        }

        private @Nullable Object plain(@Nullable Object value) {
            if (value instanceof Optional<?> optional) {
                return plain(optional.orElse(null));
            }
            if (value instanceof Instant instant) {
                return dialect.storesLocalTimes()
                        ? LocalDateTime.ofInstant(instant, ZoneOffset.UTC)
                        : instant.atOffset(ZoneOffset.UTC);
            }
            if (value instanceof UUID uuid && dialect.storesUuidsAsText()) {
                return uuid.toString();
            }
            if (value instanceof String text) {
                return Texts.clean(text);
            }
            return value instanceof Enum<?> constant ? constant.name() : value;
        }
    }

    <T> List<T> query(String sql, Mapper<T> mapper, Object... values) {
        try (PreparedStatement statement = connection.prepareStatement(naming.apply(sql))) {
            new Parameters(statement, dialect).all(values);
            limit(statement);
            try (ResultSet rows = statement.executeQuery()) {
                List<T> result = new ArrayList<>();
                Row row = new Row(rows, dialect);
                while (rows.next()) {
                    result.add(mapper.map(row));
                }
                return result;
            }
        } catch (SQLException e) {
            throw new UncheckedSql(e);
        }
    }

    private void limit(PreparedStatement statement) throws SQLException {
        if (seconds > 0) {
            statement.setQueryTimeout(seconds);
        }
    }

    /** Splits values into lists short enough for one statement. */
    <K, T> List<T> chunked(Collection<K> keys, Function<List<K>, List<T>> step) {
        int most = dialect == Dialect.H2 ? CHUNK_ON_H2 : CHUNK;
        List<K> all = List.copyOf(keys);
        List<T> results = new ArrayList<>();
        for (int from = 0; from < all.size(); from += most) {
            results.addAll(step.apply(padded(all.subList(from, Math.min(all.size(), from + most)))));
        }
        return results;
    }

    /** {@return a list of a power of two of values, the last of them repeated: so few statements serve lists of any length} */
    static <K> List<K> padded(List<K> keys) {
        List<K> padded = new ArrayList<>(keys);
        K last = keys.get(keys.size() - 1);
        while (Integer.bitCount(padded.size()) > 1) {
            padded.add(last);
        }
        return padded;
    }

    /** Runs a query with a list of values between its two parts, as often as their number needs. */
    <K, T> List<T> in(String before, Collection<K> keys, String after, Mapper<T> mapper) {
        return chunked(keys, chunk -> query(before + places(chunk.size()) + after, mapper, chunk.toArray()));
    }

    /** Runs an insert of one row; false if its key is there already, which leaves the transaction as it was. */
    boolean addUnlessThere(String sql, Object... values) {
        try {
            return update(sql, values) > 0;
        } catch (UncheckedSql e) {
            if (!SqlErrors.isDuplicate(e.sql())) {
                throw e;
            }
            return false;
        }
    }

    <T> Optional<T> first(String sql, Mapper<T> mapper, Object... values) {
        List<T> rows = query(sql, mapper, values);
        return rows.isEmpty() ? Optional.empty() : Optional.of(rows.get(0));
    }

    int update(String sql, Object... values) {
        try (PreparedStatement statement = connection.prepareStatement(naming.apply(sql))) {
            new Parameters(statement, dialect).all(values);
            return statement.executeUpdate();
        } catch (SQLException e) {
            throw new UncheckedSql(e);
        }
    }

    /**
     * Does something that may take longer than statements otherwise may, within a transaction of ours on PostgreSQL; the rest of it may then take
     * longer too.
     */
    <T> T longer(Duration most, Supplier<T> step) {
        try {
            int before = connection.getNetworkTimeout();
            execute("set local statement_timeout = " + most.toMillis());
            connection.setNetworkTimeout(
                    Runnable::run, (int) most.multipliedBy(2).toMillis());
            try {
                return step.get();
            } finally {
                connection.setNetworkTimeout(Runnable::run, before);
            }
        } catch (SQLException e) {
            throw new UncheckedSql(e);
        }
    }

    /** Reads rows one after the other, however many there are; the transaction is to be a read-only one. */
    void each(String sql, Step step, Object... values) {
        try (PreparedStatement statement = connection.prepareStatement(
                naming.apply(sql), ResultSet.TYPE_FORWARD_ONLY, ResultSet.CONCUR_READ_ONLY)) {
            statement.setFetchSize(FETCHED_AT_ONCE);
            limit(statement);
            new Parameters(statement, dialect).all(values);
            try (ResultSet rows = statement.executeQuery()) {
                Row row = new Row(rows, dialect);
                while (rows.next()) {
                    step.take(row);
                }
            }
        } catch (SQLException e) {
            throw new UncheckedSql(e);
        }
    }

    /** Takes a row. */
    interface Step {
        void take(Row row) throws SQLException;
    }

    /** Runs one statement for every item; returns the row counts. */
    <T> int[] batch(String sql, Collection<T> items, Binder<T> binder) {
        try (PreparedStatement statement = connection.prepareStatement(naming.apply(sql))) {
            for (T item : items) {
                binder.bind(new Parameters(statement, dialect), item);
                statement.addBatch();
            }
            return statement.executeBatch();
        } catch (SQLException e) {
            throw new UncheckedSql(e);
        }
    }

    /** Runs text that takes no parameters, perhaps several statements. */
    void execute(String sql) {
        try (var statement = connection.createStatement()) {
            statement.execute(naming.apply(sql));
        } catch (SQLException e) {
            throw new UncheckedSql(e);
        }
    }

    /** Makes an SQL array, for databases that take them. */
    java.sql.Array array(String type, Object[] values) {
        try {
            for (int i = 0; i < values.length; i++) {
                values[i] = values[i] instanceof String text ? Texts.clean(text) : values[i];
            }
            return connection.createArrayOf(type, values);
        } catch (SQLException e) {
            throw new UncheckedSql(e);
        }
    }

    /** {@code (?, ?, ?)}: a place for each of so many values. */
    static String places(int count) {
        return "(" + "?, ".repeat(count - 1) + "?)";
    }
}
