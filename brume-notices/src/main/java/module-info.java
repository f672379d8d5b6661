/** Channels of notices: webhooks, mail and programs. */
module dev.brume.notices {
    requires static transitive org.jspecify;
    requires com.fasterxml.jackson.jr.ob;
    requires com.samskivert.jmustache;
    requires jakarta.mail;
    requires java.net.http;
    requires org.slf4j;
    requires transitive dev.brume.core;

    exports dev.brume.notices;
}
