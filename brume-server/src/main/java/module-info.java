/** Brume over HTTP by itself, on an embedded server. */
module dev.brume.server {
    requires static transitive org.jspecify;
    requires org.eclipse.jetty.ee10.servlet;
    requires org.eclipse.jetty.server;
    requires org.slf4j;
    requires transitive dev.brume.http;

    exports dev.brume.server;
}
