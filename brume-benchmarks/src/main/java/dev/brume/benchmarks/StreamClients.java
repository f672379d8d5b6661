package dev.brume.benchmarks;

import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.ByteBuffer;
import java.nio.channels.SelectionKey;
import java.nio.channels.Selector;
import java.nio.channels.SocketChannel;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** Follows many streams of events on one thread, and notes how late each event is told. */
final class StreamClients implements AutoCloseable {
    private static final String AT = "\"at\":\"";

    private final URI server;
    private final String token;
    private final Selector selector = Selector.open();
    private final Thread reader = new Thread(this::read, "stream-clients");
    private final List<Double> delays = new ArrayList<>();
    /** What was parsed: each is told to many, and those who measure are not to keep those from working who are measured. */
    private final Map<String, Instant> instants = new HashMap<>();

    private final List<Stream> streams = new ArrayList<>();
    private boolean measures;
    private long ofOneWhole;
    private int cut;

    /** What of a stream has come and is no whole event yet. */
    private static final class Stream {
        private final StringBuilder rest = new StringBuilder();
        private final boolean first;

        private Stream(boolean first) {
            this.first = first;
        }
    }

    StreamClients(URI server, String token) throws IOException {
        this.server = server;
        this.token = token;
        reader.setDaemon(true);
        reader.start();
    }

    void open(String path) throws IOException {
        SocketChannel channel = SocketChannel.open(new InetSocketAddress(server.getHost(), server.getPort()));
        channel.write(StandardCharsets.US_ASCII.encode("GET " + path + " HTTP/1.0\r\nHost: " + server.getHost()
                + "\r\nAuthorization: Bearer " + token + "\r\n\r\n"));
        channel.configureBlocking(false);
        synchronized (this) {
            Stream stream = new Stream(streams.isEmpty());
            streams.add(stream);
            selector.wakeup();
            channel.register(selector, SelectionKey.OP_READ, stream);
        }
    }

    private void read() {
        ByteBuffer buffer = ByteBuffer.allocate(1 << 16);
        try {
            while (selector.isOpen()) {
                selector.select(10);
                synchronized (this) {
                    if (!selector.isOpen()) {
                        return;
                    }
                    Instant now = Instant.now();
                    for (SelectionKey key : selector.selectedKeys()) {
                        buffer.clear();
                        int length = ((SocketChannel) key.channel()).read(buffer);
                        if (length < 0) {
                            cut++;
                            key.cancel();
                        } else {
                            take(
                                    (Stream) key.attachment(),
                                    StandardCharsets.UTF_8.decode(buffer.flip()).toString(),
                                    now);
                        }
                    }
                    selector.selectedKeys().clear();
                }
            }
        } catch (IOException e) {
            cut += streams.size();
        }
    }

    private void take(Stream stream, String text, Instant now) {
        stream.rest.append(text);
        int begin = 0;
        for (int end = stream.rest.indexOf("\n\n"); end >= 0; end = stream.rest.indexOf("\n\n", begin)) {
            int at = stream.rest.indexOf(AT, begin);
            if (at >= 0 && at < end && measures) {
                int from = at + AT.length();
                String instant = stream.rest.substring(from, stream.rest.indexOf("\"", from));
                delays.add(Duration.between(instants.computeIfAbsent(instant, Instant::parse), now)
                                .toNanos()
                        / 1e6);
                ofOneWhole += stream.first ? 1 : 0;
                notifyAll();
            }
            begin = end + 2;
        }
        stream.rest.delete(0, begin);
    }

    /** Begins to note delays. */
    synchronized void measure() {
        measures = true;
    }

    /** Waits until the first stream was told something: where little happens, a second may pass with nothing. */
    synchronized void awaitSome() throws InterruptedException {
        while (ofOneWhole == 0) {
            wait();
        }
    }

    /** Ends noting delays; returns those of all events of all streams, in milliseconds. */
    synchronized List<Double> delays() {
        measures = false;
        return List.copyOf(delays);
    }

    /** {@return how many events the first stream was told meanwhile} */
    synchronized long ofOneWhole() {
        return ofOneWhole;
    }

    synchronized int cut() {
        return cut;
    }

    @Override
    public synchronized void close() throws IOException {
        for (SelectionKey key : selector.keys()) {
            key.channel().close();
        }
        selector.close();
    }
}
