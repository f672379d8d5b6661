package dev.brume.jdbc;

import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;

/** The row that a query stands at, with its values as our types whatever the database calls them. */
final class Row {
    private final ResultSet rows;
    private final Dialect dialect;

    Row(ResultSet rows, Dialect dialect) {
        this.rows = rows;
        this.dialect = dialect;
    }

    String text(String column) throws SQLException {
        return rows.getString(column);
    }

    String text(int column) throws SQLException {
        return rows.getString(column);
    }

    Optional<String> optionalText(String column) throws SQLException {
        return Optional.ofNullable(rows.getString(column));
    }

    int integer(String column) throws SQLException {
        return rows.getInt(column);
    }

    int integer(int column) throws SQLException {
        return rows.getInt(column);
    }

    long number(String column) throws SQLException {
        return rows.getLong(column);
    }

    long number(int column) throws SQLException {
        return rows.getLong(column);
    }

    /** Reads an instant that was asked for as microseconds. */
    Optional<Instant> instantOfMicros(int column) throws SQLException {
        long micros = rows.getLong(column);
        return rows.wasNull() ? Optional.empty() : Optional.of(Instant.EPOCH.plus(micros, ChronoUnit.MICROS));
    }

    Optional<String> optionalText(int column) throws SQLException {
        return Optional.ofNullable(rows.getString(column));
    }

    Optional<Long> optionalNumber(int column) throws SQLException {
        long value = rows.getLong(column);
        return rows.wasNull() ? Optional.empty() : Optional.of(value);
    }

    OptionalLong optionalNumber(String column) throws SQLException {
        long value = rows.getLong(column);
        return rows.wasNull() ? OptionalLong.empty() : OptionalLong.of(value);
    }

    boolean truth(String column) throws SQLException {
        return rows.getBoolean(column);
    }

    Instant instant(String column) throws SQLException {
        return optionalInstant(column).orElseThrow(() -> new SQLException("no value in column " + column));
    }

    /** Where a database has no type for instants, they are stored as local times of UTC. */
    Optional<Instant> optionalInstant(String column) throws SQLException {
        return dialect.storesLocalTimes()
                ? Optional.ofNullable(rows.getObject(column, LocalDateTime.class))
                        .map(local -> local.toInstant(ZoneOffset.UTC))
                : Optional.ofNullable(rows.getObject(column, OffsetDateTime.class))
                        .map(OffsetDateTime::toInstant);
    }

    UUID uuid(String column) throws SQLException {
        return optionalUuid(column).orElseThrow(() -> new SQLException("no value in column " + column));
    }

    Optional<UUID> optionalUuid(String column) throws SQLException {
        return dialect.storesUuidsAsText()
                ? Optional.ofNullable(rows.getString(column)).map(UUID::fromString)
                : Optional.ofNullable(rows.getObject(column, UUID.class));
    }
}
