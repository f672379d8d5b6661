package dev.brume.tests;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.jdbc.JdbcStore;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.function.UnaryOperator;
import javax.sql.DataSource;

/** The databases that every scenario is tried on. */
enum Db {
    H2,
    POSTGRESQL,
    MARIADB;

    /** A store of its own in a fresh place of the server. */
    final class Fresh implements AutoCloseable {
        private final HikariDataSource pool;
        private final String schema;
        private final String place;
        private final JdbcStore store;

        private Fresh(UnaryOperator<DataSource> around) {
            String name = Databases.freshName();
            place = name;
            pool = switch (Db.this) {
                case H2 -> Databases.h2();
                case POSTGRESQL -> Databases.postgres();
                case MARIADB -> Databases.mariadb(name);
            };
            schema = Db.this == POSTGRESQL ? name : "";
            JdbcStore.Builder builder = JdbcStore.builder(around.apply(pool)).description(Db.this.name());
            store = schema.isEmpty() ? builder.build() : builder.schema(schema).build();
            store.prepare();
        }

        JdbcStore store() {
            return store;
        }

        DataSource source() {
            return pool;
        }

        Connection connection() throws SQLException {
            return pool.getConnection();
        }

        /** The schema or database that is this one's own. */
        String place() {
            return place;
        }

        String table(String name) {
            return schema.isEmpty() ? name : schema + "." + name;
        }

        void sql(String text) throws SQLException {
            try (Connection connection = connection();
                    Statement statement = connection.createStatement()) {
                statement.execute(text);
            }
        }

        /** {@return the first column of the first row} */
        String text(String query) throws SQLException {
            try (Connection connection = connection();
                    Statement statement = connection.createStatement();
                    ResultSet found = statement.executeQuery(query)) {
                found.next();
                return found.getString(1);
            }
        }

        /** Takes away all that keeps the rows of a table as they are, as whoever owns it can. */
        void withoutGuard(String name) throws SQLException {
            String on = Db.this == POSTGRESQL ? " on " + table(name) : "";
            for (String trigger : List.of("_insert_only", "_no_update", "_no_delete")) {
                sql("drop trigger if exists " + name + trigger + on);
            }
        }

        /** Adds a database user without any right on tables. */
        void addUser(String name) throws SQLException {
            if (Db.this == POSTGRESQL) {
                sql("create role " + name + " login password '" + name + "'");
                sql("grant usage on schema " + schema + " to " + name);
            } else {
                sql("create user " + name + " identified by '" + name + "'");
            }
        }

        /** Has names of tables mean those of this place. */
        void useOwnPlace(Statement statement) throws SQLException {
            if (Db.this == POSTGRESQL) {
                statement.execute("set search_path to " + schema);
            }
        }

        /** Opens a pool for a user; it is the caller's to close. */
        HikariDataSource poolOf(String user) {
            return Databases.pool(
                    Db.this == POSTGRESQL ? Databases.postgresAs(user) : Databases.mariadbAs(user, place));
        }

        /** Returns a store on other connections to this place, which creates nothing. */
        JdbcStore storeOn(DataSource source) {
            JdbcStore.Builder builder =
                    JdbcStore.builder(source).description(Db.this.name()).withoutSchemaChanges();
            return schema.isEmpty() ? builder.build() : builder.schema(schema).build();
        }

        /** Returns another store on this place, as another process has it. */
        JdbcStore another() {
            return storeOn(pool);
        }

        long number(String query) throws SQLException {
            try (Connection connection = connection();
                    Statement statement = connection.createStatement();
                    var rows = statement.executeQuery(query)) {
                rows.next();
                return rows.getLong(1);
            }
        }

        @Override
        public void close() {
            pool.close();
        }
    }

    Fresh fresh() {
        return fresh(source -> source);
    }

    /** With something between the store and its connections. */
    Fresh fresh(UnaryOperator<DataSource> around) {
        return new Fresh(around);
    }
}
