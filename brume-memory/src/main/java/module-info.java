/** The store without a database. */
module dev.brume.memory {
    requires static transitive org.jspecify;
    requires transitive dev.brume.core;

    exports dev.brume.memory;
}
