package dev.brume.benchmarks;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;

/** Asks for the same thing again and again over one connection, and costs as little as can be. Confined to one thread. */
final class RawClient implements AutoCloseable {
    private final Socket socket;
    private final InputStream in;
    private final OutputStream out;
    private final byte[] request;

    RawClient(URI server, String path, String token) throws IOException {
        socket = new Socket(server.getHost(), server.getPort());
        socket.setTcpNoDelay(true);
        in = new BufferedInputStream(socket.getInputStream(), 1 << 16);
        out = socket.getOutputStream();
        request = ("GET " + path + " HTTP/1.1\r\nHost: " + server.getHost() + "\r\nAuthorization: Bearer " + token
                        + "\r\n\r\n")
                .getBytes(StandardCharsets.US_ASCII);
    }

    void ask() throws IOException {
        out.write(request);
        out.flush();
        int length = -1;
        String line = line();
        if (!line.startsWith("HTTP/1.1 200")) {
            throw new IOException(line);
        }
        while (!line.isEmpty()) {
            if (line.regionMatches(/* ignoreCase= */ true, 0, "Content-Length: ", 0, 16)) {
                length = Integer.parseInt(line.substring(16));
            }
            line = line();
        }
        in.skipNBytes(length);
    }

    private String line() throws IOException {
        StringBuilder line = new StringBuilder();
        for (int at = in.read(); at != '\n'; at = in.read()) {
            if (at < 0) {
                throw new IOException("the server closed the connection");
            }
            if (at != '\r') {
                line.append((char) at);
            }
        }
        return line.toString();
    }

    @Override
    public void close() throws IOException {
        socket.close();
    }
}
