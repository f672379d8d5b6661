/** Payloads as JSON, by Jackson 2. */
module dev.brume.jackson2 {
    requires static transitive org.jspecify;
    requires transitive com.fasterxml.jackson.databind;
    requires com.fasterxml.jackson.datatype.jdk8;
    requires com.fasterxml.jackson.datatype.jsr310;
    requires transitive dev.brume.core;

    exports dev.brume.jackson2;

    provides dev.brume.JsonPayloads with
            dev.brume.jackson2.Jackson2Payloads;
}
