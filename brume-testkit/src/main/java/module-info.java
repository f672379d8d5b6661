/** Virtual time, inline runs, and the contract of stores as tests. */
module dev.brume.testkit {
    requires static transitive org.jspecify;
    requires dev.brume.memory;
    requires transitive dev.brume.core;
    requires transitive org.assertj.core;
    requires transitive org.junit.jupiter.api;

    exports dev.brume.testkit;
}
