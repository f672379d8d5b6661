package dev.brume.jdbc;

import java.io.EOFException;
import java.io.IOException;
import java.io.InputStream;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.SocketTimeoutException;
import java.net.UnknownHostException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.util.Arrays;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * How the owner of an embedded database and a visitor prove to each other that they know its secret, before either says anything else.
 *
 * <p>The visitor sends a word of its own; the owner answers with one of its own and a proof over both; the visitor answers with a proof; the owner
 * confirms. A proof is an HMAC-SHA-256 over who proves, both words and the owner's port, so that neither side can be given what the other said, and
 * nobody between them can pass it on from another port. All messages have a fixed length; all of it takes two seconds at most.
 */
final class Handshake {
    static final InetAddress LOOPBACK = loopback();

    private static final long MOST_NANOS = 2_000_000_000L;
    private static final byte[] GREETING = "brume 1\n".getBytes(StandardCharsets.US_ASCII);
    private static final int WORD = 32;
    private static final byte CONFIRMED = 1;
    private static final SecureRandom RANDOM = new SecureRandom();

    private final Socket socket;
    private final String secret;
    private final int port;
    private final long until = System.nanoTime() + MOST_NANOS;

    private Handshake(Socket socket, String secret, int port) {
        this.socket = socket;
        this.secret = secret;
        this.port = port;
    }

    private static InetAddress loopback() {
        try {
            return InetAddress.getByAddress(new byte[] {127, 0, 0, 1});
        } catch (UnknownHostException e) {
            throw new IllegalStateException("four bytes are an address", e);
        }
    }

    /**
     * Connects as a visitor.
     *
     * @return a connection to somebody who knows the secret
     * @throws IOException if nobody listens there, or somebody else does
     */
    static Socket visit(int port, String secret) throws IOException {
        Socket socket = new Socket();
        try {
            socket.setTcpNoDelay(true);
            socket.connect(new InetSocketAddress(LOOPBACK, port), (int) (MOST_NANOS / 1_000_000));
            new Handshake(socket, secret, port).visit();
            socket.setSoTimeout(0);
            return socket;
        } catch (IOException | RuntimeException e) {
            socket.close();
            throw e;
        }
    }

    /**
     * Receives a visitor.
     *
     * @throws IOException if they do not know the secret
     */
    static void receive(Socket visitor, String secret, int port) throws IOException {
        visitor.setTcpNoDelay(true);
        new Handshake(visitor, secret, port).receive();
        visitor.setSoTimeout(0);
    }

    private void visit() throws IOException {
        byte[] own = word();
        send(GREETING, own);
        byte[] theirs = read(WORD);
        if (!MessageDigest.isEqual(proof("owner", own, theirs), read(WORD))) {
            throw new IOException("the process that listens at port " + port + " does not know the secret");
        }
        send(proof("visitor", own, theirs));
        if (read(1)[0] != CONFIRMED) {
            throw new IOException("the owner did not confirm");
        }
    }

    private void receive() throws IOException {
        if (!Arrays.equals(read(GREETING.length), GREETING)) {
            throw new IOException("a stranger");
        }
        byte[] theirs = read(WORD);
        byte[] own = word();
        send(own, proof("owner", theirs, own));
        if (!MessageDigest.isEqual(proof("visitor", theirs, own), read(WORD))) {
            throw new IOException("a visitor that does not know the secret");
        }
        send(new byte[] {CONFIRMED});
    }

    private static byte[] word() {
        byte[] word = new byte[WORD];
        RANDOM.nextBytes(word);
        return word;
    }

    private byte[] proof(String who, byte[] visitors, byte[] owners) {
        try {
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(secret.getBytes(StandardCharsets.UTF_8), "HmacSHA256"));
            mac.update(who.getBytes(StandardCharsets.US_ASCII));
            mac.update(visitors);
            mac.update(owners);
            return mac.doFinal(ByteBuffer.allocate(4).putInt(port).array());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java platform has HMAC-SHA-256", e);
        }
    }

    private void send(byte[]... parts) throws IOException {
        ByteBuffer all = ByteBuffer.allocate(2 * WORD + GREETING.length);
        for (byte[] part : parts) {
            all.put(part);
        }
        socket.getOutputStream().write(all.array(), 0, all.position());
    }

    /** A peer that sends a byte now and then cannot hold it up for longer. */
    private byte[] read(int length) throws IOException {
        InputStream in = socket.getInputStream();
        byte[] bytes = new byte[length];
        int have = 0;
        while (have < length) {
            long left = (until - System.nanoTime()) / 1_000_000;
            if (left <= 0) {
                throw new SocketTimeoutException("the other side takes too long");
            }
            socket.setSoTimeout((int) left);
            int count = in.read(bytes, have, length - have);
            if (count < 0) {
                throw new EOFException("the other side hung up");
            }
            have += count;
        }
        return bytes;
    }
}
