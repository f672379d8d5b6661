package dev.brume.tests;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.jdbc.JdbcStore;

class MariaDbStoreTest extends JdbcContract {
    private String database;

    @Override
    HikariDataSource pool() {
        database = Databases.freshName();
        return Databases.mariadb(database);
    }

    @Override
    JdbcStore.Builder builder(HikariDataSource pool) {
        return JdbcStore.builder(pool).description("MariaDB");
    }

    @Override
    String table(String name) {
        return name;
    }
}
