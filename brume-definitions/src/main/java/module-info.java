/** Definition files, their schema, and crontabs. */
module dev.brume.definitions {
    requires static transitive org.jspecify;
    requires com.fasterxml.jackson.jr.ob;
    requires de.siegmar.fastcsv;
    requires dev.brume.ical;
    requires org.snakeyaml.engine.v2;
    requires transitive dev.brume.core;
    requires transitive dev.brume.insight;

    exports dev.brume.definitions;
    exports dev.brume.definitions.phrase;
}
