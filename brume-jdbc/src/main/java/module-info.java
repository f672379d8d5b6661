/** The store on PostgreSQL, MariaDB and H2. */
module dev.brume.jdbc {
    requires static transitive com.h2database;
    requires static transitive org.jspecify;
    requires static org.postgresql.jdbc;
    requires com.fasterxml.jackson.core;
    requires org.slf4j;
    requires transitive dev.brume.core;
    requires transitive java.sql;

    exports dev.brume.jdbc;
}
