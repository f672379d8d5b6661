package dev.brume.tests;

import dev.brume.spi.Store;

/** The databases, for tests of other packages. */
public enum Stores {
    /** The embedded one. */
    H2(Db.H2),
    /** The reference. */
    POSTGRESQL(Db.POSTGRESQL),
    /** The third. */
    MARIADB(Db.MARIADB);

    private final Db db;

    Stores(Db db) {
        this.db = db;
    }

    /** A store of its own. */
    public record Shared(Db.Fresh fresh) implements AutoCloseable {
        /** {@return the store} */
        public Store store() {
            return fresh.store();
        }

        @Override
        public void close() {
            fresh.close();
        }
    }

    /** {@return a store of its own in a fresh place} */
    public Shared shared() {
        return new Shared(db.fresh());
    }
}
