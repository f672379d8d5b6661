package dev.brume.jdbc;

import java.sql.Connection;
import java.sql.SQLException;

/** Opens connections to one database. */
interface Connections {
    Connection open() throws SQLException;
}
