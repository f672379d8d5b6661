package dev.brume.tests;

import java.io.PrintWriter;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.logging.Logger;
import javax.sql.DataSource;

/** A data source that does something to each connection of another. */
public abstract class WrappedSource implements DataSource {
    private final DataSource source;

    /** Creates one around another. */
    protected WrappedSource(DataSource source) {
        this.source = source;
    }

    /** Returns what is handed out for a connection. */
    protected abstract Connection around(Connection connection);

    @Override
    public Connection getConnection() throws SQLException {
        return around(source.getConnection());
    }

    @Override
    public Connection getConnection(String user, String password) throws SQLException {
        return around(source.getConnection(user, password));
    }

    @Override
    public PrintWriter getLogWriter() throws SQLException {
        return source.getLogWriter();
    }

    @Override
    public void setLogWriter(PrintWriter out) throws SQLException {
        source.setLogWriter(out);
    }

    @Override
    public void setLoginTimeout(int seconds) throws SQLException {
        source.setLoginTimeout(seconds);
    }

    @Override
    public int getLoginTimeout() throws SQLException {
        return source.getLoginTimeout();
    }

    @Override
    public Logger getParentLogger() {
        return Logger.getGlobal();
    }

    @Override
    public <T> T unwrap(Class<T> type) throws SQLException {
        return source.unwrap(type);
    }

    @Override
    public boolean isWrapperFor(Class<?> type) throws SQLException {
        return source.isWrapperFor(type);
    }
}
