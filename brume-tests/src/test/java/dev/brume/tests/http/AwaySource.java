package dev.brume.tests.http;

import dev.brume.tests.WrappedSource;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.concurrent.atomic.AtomicBoolean;
import javax.sql.DataSource;
import org.h2.jdbcx.JdbcDataSource;

/** A database that can be away for a while. */
final class AwaySource extends WrappedSource {
    private final AtomicBoolean away = new AtomicBoolean();

    AwaySource(String name) {
        super(memory(name));
    }

    private static DataSource memory(String name) {
        JdbcDataSource memory = new JdbcDataSource();
        memory.setURL("jdbc:h2:mem:" + name + ";DB_CLOSE_DELAY=-1");
        return memory;
    }

    void away(boolean is) {
        away.set(is);
    }

    @Override
    protected Connection around(Connection connection) {
        return connection;
    }

    @Override
    public Connection getConnection() throws SQLException {
        if (away.get()) {
            throw new SQLException("the database is away", "08001");
        }
        return super.getConnection();
    }
}
