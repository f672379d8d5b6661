package dev.brume.notices;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.SocketException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Function;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLSocket;

/**
 * Takes mail on this machine alone and hands it on instead of sending it: the other side of a mail channel, to try one out. Speaks as much of SMTP (RFC
 * 5321) as that takes. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class MailSink implements AutoCloseable {
    private static final int LONGEST_LINE = 4096;
    private static final int LARGEST = 1024 * 1024;

    private final ServerSocket server;
    private final Consumer<Mail> taken;
    private final Function<String, Optional<String>> refusal;
    private final Optional<SSLContext> tls;

    /**
     * What was taken.
     *
     * @param from the sender's address
     * @param to the addresses that were taken
     * @param content the message, with its headers
     */
    public record Mail(String from, List<String> to, String content) {
        /** {@return a header of the message, as it was sent, its folded lines put together} */
        public Optional<String> header(String name) {
            String begin = name.toLowerCase(Locale.ROOT) + ":";
            String head = content.split("\r\n\r\n", 2)[0].replaceAll("\r\n[ \t]+", " ");
            return head.lines()
                    .filter(line -> line.toLowerCase(Locale.ROOT).startsWith(begin))
                    .map(line -> line.substring(begin.length()).strip())
                    .findFirst();
        }
    }

    private MailSink(
            ServerSocket server,
            Consumer<Mail> taken,
            Function<String, Optional<String>> refusal,
            Optional<SSLContext> tls) {
        this.server = server;
        this.taken = taken;
        this.refusal = refusal;
        this.tls = tls;
        Thread thread = new Thread(this::accept, "brume-mail-sink");
        thread.setDaemon(true);
        thread.start();
    }

    /**
     * Begins to take mail.
     *
     * @param port 0 for any free one
     * @param taken is told of each mail
     */
    public static MailSink open(int port, Consumer<Mail> taken) {
        return open(port, taken, address -> Optional.empty(), Optional.empty());
    }

    /**
     * Begins to take mail, though not for everybody.
     *
     * @param port 0 for any free one
     * @param taken is told of each mail
     * @param refusal what is answered for an address that is not taken, such as {@code 552 mailbox full}; empty if it is
     * @param tls turns the connection to TLS when it is asked to
     */
    public static MailSink open(
            int port, Consumer<Mail> taken, Function<String, Optional<String>> refusal, Optional<SSLContext> tls) {
        try {
            return new MailSink(
                    new ServerSocket(port, /* backlog= */ 50, InetAddress.getLoopbackAddress()), taken, refusal, tls);
        } catch (IOException e) {
            throw new UncheckedIOException("cannot listen on port " + port + ": " + e.getMessage(), e);
        }
    }

    /** {@return where it listens} */
    public int port() {
        return server.getLocalPort();
    }

    private void accept() {
        while (!server.isClosed()) {
            try {
                Socket socket = server.accept();
                Thread thread = new Thread(() -> talk(socket), "brume-mail-sink-talk");
                thread.setDaemon(true);
                thread.start();
            } catch (SocketException closed) {
                return;
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }
    }

    private void talk(Socket socket) {
        try (socket) {
            new Talk(socket).go();
        } catch (IOException e) {
            // Whoever talked has gone away; what they had said completely was taken.
            Thread.currentThread().interrupt();
        }
    }

    /** One connection. */
    private final class Talk {
        private Socket socket;
        private BufferedReader in;
        private OutputStream out;
        private String from = "";
        private List<String> to = new ArrayList<>();

        Talk(Socket socket) throws IOException {
            this.socket = socket;
            in = reader(socket);
            out = socket.getOutputStream();
        }

        private static BufferedReader reader(Socket socket) throws IOException {
            return new BufferedReader(new InputStreamReader(socket.getInputStream(), StandardCharsets.UTF_8));
        }

        private void say(String line) throws IOException {
            out.write((line + "\r\n").getBytes(StandardCharsets.UTF_8));
            out.flush();
        }

        void go() throws IOException {
            say("220 brume mail sink");
            String line = in.readLine();
            while (line != null) {
                if (line.length() > LONGEST_LINE) {
                    say("500 too long");
                    return;
                }
                String verb = line.split("[ :]", 2)[0].toUpperCase(Locale.ROOT);
                if (verb.equals("QUIT")) {
                    say("221 bye");
                    return;
                }
                answer(verb, line);
                line = in.readLine();
            }
        }

        private void answer(String verb, String line) throws IOException {
            switch (verb) {
                case "EHLO", "HELO" -> {
                    say("250-brume");
                    if (tls.isPresent() && !(socket instanceof SSLSocket)) {
                        say("250-STARTTLS");
                    }
                    say("250-AUTH PLAIN LOGIN");
                    say("250 8BITMIME");
                }
                case "STARTTLS" -> {
                    say("220 go ahead");
                    SSLSocket secure = (SSLSocket) tls.orElseThrow()
                            .getSocketFactory()
                            .createSocket(socket, socket.getInetAddress().getHostName(), socket.getPort(), true);
                    secure.setUseClientMode(false);
                    socket = secure;
                    in = reader(secure);
                    out = secure.getOutputStream();
                }
                case "AUTH" -> {
                    if (line.toUpperCase(Locale.ROOT).startsWith("AUTH LOGIN")) {
                        say("334 VXNlcm5hbWU6");
                        in.readLine();
                        say("334 UGFzc3dvcmQ6");
                        in.readLine();
                    }
                    say("235 welcome");
                }
                case "MAIL" -> {
                    from = address(line);
                    to = new ArrayList<>();
                    say("250 go on");
                }
                case "RCPT" -> {
                    Optional<String> refused = refusal.apply(address(line));
                    if (refused.isEmpty()) {
                        to.add(address(line));
                    }
                    say(refused.orElse("250 go on"));
                }
                case "DATA" -> data();
                case "RSET" -> {
                    to = new ArrayList<>();
                    say("250 done");
                }
                case "NOOP" -> say("250 done");
                default -> say("502 not here");
            }
        }

        private static String address(String line) {
            int open = line.indexOf('<');
            int close = line.indexOf('>', open);
            return open < 0 || close < 0
                    ? line.substring(line.indexOf(':') + 1).strip()
                    : line.substring(open + 1, close);
        }

        private void data() throws IOException {
            if (to.isEmpty()) {
                say("554 to nobody");
                return;
            }
            say("354 end with a dot");
            StringBuilder content = new StringBuilder();
            String line = in.readLine();
            while (line != null && !line.equals(".")) {
                if (content.length() < LARGEST) {
                    content.append(line.startsWith("..") ? line.substring(1) : line)
                            .append("\r\n");
                }
                line = in.readLine();
            }
            taken.accept(new Mail(from, List.copyOf(to), content.toString()));
            say("250 taken");
        }
    }

    @Override
    public void close() {
        try {
            server.close();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
