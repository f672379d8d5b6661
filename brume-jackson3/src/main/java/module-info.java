/** Payloads as JSON, by Jackson 3. */
module dev.brume.jackson3 {
    requires static transitive org.jspecify;
    requires transitive dev.brume.core;
    requires transitive tools.jackson.databind;

    exports dev.brume.jackson3;

    provides dev.brume.JsonPayloads with
            dev.brume.jackson3.Jackson3Payloads;
}
