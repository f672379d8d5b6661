package dev.brume.tests;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.jdbc.JdbcStore;

class H2StoreTest extends JdbcContract {
    @Override
    HikariDataSource pool() {
        return Databases.h2();
    }

    @Override
    JdbcStore.Builder builder(HikariDataSource pool) {
        return JdbcStore.builder(pool).description("H2");
    }

    @Override
    String table(String name) {
        return name;
    }
}
