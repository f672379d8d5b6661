package dev.brume.tests;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.jdbc.JdbcStore;

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
}
