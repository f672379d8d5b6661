/** Brume over HTTP: resources, events, metrics, health and pages for people as a servlet. */
module dev.brume.http {
    requires static transitive org.jspecify;
    requires com.fasterxml.jackson.core;
    requires com.fasterxml.jackson.jr.ob;
    requires dev.brume.definitions;
    requires transitive dev.brume.insight;
    requires dev.brume.memory;
    requires gg.jte.runtime;
    requires static java.compiler;
    requires java.management;
    requires org.slf4j;
    requires transitive dev.brume.core;
    requires transitive jakarta.servlet;

    exports dev.brume.http;

    opens dev.brume.http.internal.page to
            gg.jte.runtime;
}
