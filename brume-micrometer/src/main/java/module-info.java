/** Metrics of an instance, by Micrometer. */
module dev.brume.micrometer {
    requires static transitive org.jspecify;
    requires org.slf4j;
    requires transitive dev.brume.core;
    requires transitive micrometer.core;

    exports dev.brume.micrometer;
}
