package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.jdbc.JdbcStore;
import java.sql.Connection;
import java.sql.SQLException;
import org.h2.jdbcx.JdbcConnectionPool;
import org.junit.jupiter.api.Test;

class H2StoreTest extends JdbcContract {
    @Override
    HikariDataSource pool() {
        return Databases.h2();
    }

    @Override
    JdbcStore.Builder builder(HikariDataSource pool) {
        return JdbcStore.builder(pool).description("H2");
    }

    @Test
    void theApplicationGetsItsConnectionsBackAsTheyWere() throws SQLException {
        JdbcConnectionPool pool = JdbcConnectionPool.create("jdbc:h2:mem:" + Databases.freshName(), "", "");
        pool.setMaxConnections(2);
        try (Connection first = pool.getConnection();
                Connection second = pool.getConnection()) {
            first.setTransactionIsolation(Connection.TRANSACTION_SERIALIZABLE);
            second.setTransactionIsolation(Connection.TRANSACTION_SERIALIZABLE);
        }
        JdbcStore mine = JdbcStore.on(pool);
        mine.prepare();
        mine.transact(tx -> tx.now());
        assertThatThrownBy(() -> mine.transact(tx -> {
                    throw new AssertionError("mine, and not wrapped");
                }))
                .isInstanceOf(AssertionError.class)
                .hasMessage("mine, and not wrapped");

        try (Connection again = pool.getConnection()) {
            assertThat(again.getTransactionIsolation()).isEqualTo(Connection.TRANSACTION_SERIALIZABLE);
            assertThat(again.getAutoCommit()).isTrue();
        }
        pool.dispose();
    }

    @Override
    boolean writesInTurn() {
        return true;
    }

    @Override
    String table(String name) {
        return name;
    }
}
