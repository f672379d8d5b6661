package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.jdbc.JdbcStore;
import dev.brume.port.LedgerLine;
import dev.brume.port.RunRow;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;

class PostgresStoreTest extends JdbcContract {
    private String schema;

    @Override
    HikariDataSource pool() {
        schema = Databases.freshName();
        return Databases.postgres();
    }

    @Override
    JdbcStore.Builder builder(HikariDataSource pool) {
        return JdbcStore.builder(pool).description("PostgreSQL").schema(schema);
    }

    @Override
    String table(String name) {
        return schema + "." + name;
    }

    @Test
    void theDatabaseItselfRefusesToChangeALedgerLine() throws SQLException {
        Instant planned = Instant.parse("2026-11-23T10:00:00Z");
        RunRow.Owed owed = new RunRow.Owed(
                1, planned, "", Origin.SCHEDULE, LocalDateTime.parse("2026-11-23T10:00"), "UTC", Optional.empty());
        store.transact(tx -> {
            tx.addLines(List.of(new LedgerLine(
                    1,
                    owed,
                    1,
                    "main",
                    planned,
                    Outcome.SKIPPED,
                    Optional.of("BUSY"),
                    List.of(),
                    Optional.empty(),
                    Optional.empty())));
            return null;
        });

        try (HikariDataSource pool = Databases.postgres();
                Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            assertThatThrownBy(
                            () -> statement.execute("update " + table("brume_ledger") + " set outcome = 'SUCCEEDED'"))
                    .hasMessageContaining("insert-only");
        }
    }
}
