package dev.brume.server;

import dev.brume.http.BrumeHttp;
import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.TimeoutException;
import org.eclipse.jetty.ee10.servlet.ServletContextHandler;
import org.eclipse.jetty.ee10.servlet.ServletHolder;
import org.eclipse.jetty.http.UriCompliance;
import org.eclipse.jetty.server.HttpConfiguration;
import org.eclipse.jetty.server.HttpConnectionFactory;
import org.eclipse.jetty.server.NetworkConnectionLimit;
import org.eclipse.jetty.server.SecureRequestCustomizer;
import org.eclipse.jetty.server.Server;
import org.eclipse.jetty.server.ServerConnector;
import org.eclipse.jetty.server.SslConnectionFactory;
import org.eclipse.jetty.util.ssl.SslContextFactory;
import org.eclipse.jetty.util.thread.QueuedThreadPool;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Serves an instance over HTTP at an address and a port. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class HttpServer implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(HttpServer.class);
    private static final int MOST_CONNECTIONS = 2_000;
    private static final int THREADS = 96;
    private static final int LONGEST_HEADERS = 16 * 1024;
    private static final Duration IDLE = Duration.ofSeconds(30);

    private final Server server;
    private final BrumeHttp http;
    private final URI address;

    private HttpServer(Server server, BrumeHttp http, URI address) {
        this.server = server;
        this.http = http;
        this.address = address;
    }

    /**
     * Starts to serve.
     *
     * @param http what is served; closed with the server
     * @param host the address to listen at, such as {@code 127.0.0.1}
     * @param port to listen at; 0 for any that is free
     * @param tls how connections are encrypted; not at all if empty
     * @throws IOException if nothing can listen there, or the key store cannot be used
     */
    public static HttpServer start(BrumeHttp http, String host, int port, Optional<Tls> tls) throws IOException {
        Server server = server();
        ServerConnector connector = connector(server, tls);
        connector.setHost(host);
        connector.setPort(port);
        connector.setIdleTimeout(IDLE.toMillis());
        server.addConnector(connector);
        ServletContextHandler context = new ServletContextHandler();
        context.setContextPath("/");
        context.getServletHandler().setDecodeAmbiguousURIs(true);
        ServletHolder holder = new ServletHolder("brume", http.servlet());
        holder.setAsyncSupported(true);
        context.addServlet(holder, "/*");
        server.setHandler(context);
        try {
            server.start();
        } catch (Exception e) {
            stop(server, e);
            throw e instanceof IOException io ? io : new IOException(e.getMessage(), e);
        }
        String name = host.contains(":") ? "[" + host + "]" : host;
        return new HttpServer(
                server,
                http,
                URI.create((tls.isPresent() ? "https://" : "http://") + name + ":" + connector.getLocalPort()));
    }

    private static Server server() {
        QueuedThreadPool threads = new QueuedThreadPool(THREADS, 4);
        threads.setName("brume-http");
        threads.setDaemon(true);
        Server server = new Server(threads);
        server.setErrorHandler(new PlainErrors());
        server.setStopTimeout(Duration.ofSeconds(2).toMillis());
        server.addBean(new NetworkConnectionLimit(MOST_CONNECTIONS, server));
        return server;
    }

    /**
     * Loads what serving takes, so that it begins sooner. To be called while something else is waited for, such as a database that opens; changes
     * nothing, and need not be called.
     */
    public static void warmUp() {
        Server server = server();
        try {
            server.addConnector(connector(server, Optional.empty()));
            server.setHandler(new ServletContextHandler());
        } catch (IOException e) {
            LOG.debug("what serving takes was not loaded ahead", e);
        }
    }

    private static void stop(Server server, Exception cause) {
        try {
            server.stop();
        } catch (Exception e) {
            cause.addSuppressed(e);
        }
    }

    private static ServerConnector connector(Server server, Optional<Tls> tls) throws IOException {
        HttpConfiguration settings = new HttpConfiguration();
        settings.setSendServerVersion(false);
        settings.setRequestHeaderSize(LONGEST_HEADERS);
        // Keys of one-offs may have a slash, which an address then has as %2F.
        settings.setUriCompliance(UriCompliance.DEFAULT.with(
                "keys",
                UriCompliance.Violation.AMBIGUOUS_PATH_SEPARATOR,
                UriCompliance.Violation.AMBIGUOUS_PATH_ENCODING));
        if (tls.isEmpty()) {
            return new ServerConnector(server, 1, 1, new HttpConnectionFactory(settings));
        }
        if (!Files.isReadable(tls.get().keyStore())) {
            throw new IOException("the key store " + tls.get().keyStore() + " cannot be read");
        }
        settings.addCustomizer(new SecureRequestCustomizer(/* sniHostCheck= */ false));
        SslContextFactory.Server ssl = new SslContextFactory.Server();
        ssl.setKeyStorePath(tls.get().keyStore().toAbsolutePath().toString());
        ssl.setKeyStorePassword(tls.get().password());
        return new ServerConnector(
                server, 1, 1, new SslConnectionFactory(ssl, "http/1.1"), new HttpConnectionFactory(settings));
    }

    /** {@return where it serves} */
    public URI address() {
        return address;
    }

    /** Ends all streams, lets requests end for two seconds, and stops. */
    @Override
    public void close() {
        http.close();
        try {
            server.stop();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (TimeoutException late) {
            LOG.debug("connections that had not ended were cut", late);
        } catch (Exception e) {
            throw new IllegalStateException("the server did not stop: " + e.getMessage(), e);
        }
    }
}
