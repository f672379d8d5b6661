package dev.brume.notice;

import dev.brume.internal.text.Placeholders;
import dev.brume.schedule.Durations;
import java.net.URI;
import java.net.URISyntaxException;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;

/**
 * How a channel sends. Texts may have <code>${env:NAME}</code> and <code>${file:PATH}</code> in them, filled by the process that sends.
 *
 * @since 0.1.0
 */
public sealed interface Way {
    /** The longest that one delivery may take. */
    Duration LONGEST = Duration.ofMinutes(1);

    /** {@return its name in definitions} */
    String word();

    /**
     * Posts CloudEvents 1.0 in JSON.
     *
     * @param url whereto; http or https
     * @param headers sent along
     * @param secret signs what is sent, if given: HMAC-SHA256 over id, time and body
     * @param batch how many notices one request may carry, 1 to 100; beyond 1 it carries a batch, however many there are
     * @param timeLimit of one request, from 1 s to a minute
     */
    record Webhook(String url, Map<String, String> headers, Optional<String> secret, int batch, Duration timeLimit)
            implements Way {
        private static final Pattern HEADER = Pattern.compile("[!#$%&'*+.^_`|~0-9A-Za-z-]{1,100}");
        private static final Set<String> OURS = Set.of(
                "content-type", "content-length", "host", "connection", "brume-id", "brume-time", "brume-hmac-sha256");
        private static final int LARGEST_BATCH = 100;

        /** Checks it. */
        public Webhook {
            headers = Map.copyOf(headers);
            if (!Placeholders.startsFilled(url)) {
                checkUrl(url);
            }
            headers.keySet().forEach(name -> {
                if (!HEADER.matcher(name).matches() || OURS.contains(name.toLowerCase(java.util.Locale.ROOT))) {
                    throw new IllegalArgumentException("headers: '" + name + "' is no header that may be set here");
                }
            });
            if (batch < 1 || batch > LARGEST_BATCH) {
                throw new IllegalArgumentException("batch: " + batch + " is outside 1 to " + LARGEST_BATCH);
            }
            Durations.checked("timeLimit", timeLimit, Duration.ofSeconds(1), LONGEST);
        }

        private static void checkUrl(String url) {
            try {
                URI address = new URI(Placeholders.fill(url, place -> "x"));
                if (address.getHost() == null || !Set.of("http", "https").contains(address.getScheme())) {
                    throw new IllegalArgumentException(
                            "url: '" + url + "' is not an address (expected https://host/path)");
                }
                if (address.getUserInfo() != null) {
                    throw new IllegalArgumentException("url: it has a password in it (put it into a header by"
                            + " reference, as in headers: {Authorization: \"${env:NAME}\"})");
                }
            } catch (URISyntaxException e) {
                throw new IllegalArgumentException("url: '" + url + "' is not an address: " + e.getReason(), e);
            }
        }

        /** {@return one that posts to an address, one notice at a time, for ten seconds at most} */
        public static Webhook to(String url) {
            return new Webhook(url, Map.of(), Optional.empty(), 1, Duration.ofSeconds(10));
        }

        /** {@return the same, signing with a secret} */
        public Webhook signedWith(String key) {
            return new Webhook(url, headers, Optional.of(key), batch, timeLimit);
        }

        @Override
        public String word() {
            return "webhook";
        }
    }

    /**
     * Sends mail by SMTP.
     *
     * @param server {@code host} or {@code host:port}
     * @param security how the connection is kept from being read
     * @param user signs in with a password, if given
     * @param password of the user
     * @param from the sender's address
     * @param to addresses, 1 to 50
     */
    record Mail(
            String server,
            Security security,
            Optional<String> user,
            Optional<String> password,
            String from,
            List<String> to)
            implements Way {
        private static final int MOST = 50;
        private static final Pattern ADDRESS = Pattern.compile("[^\\s@<>,;\"]{1,64}@[^\\s@<>,;\"]{1,255}");
        private static final Pattern SERVER = Pattern.compile("[A-Za-z0-9.-]{1,253}(:[0-9]{1,5})?");

        /** Whether mail goes over an encrypted connection. */
        public enum Security {
            /** It begins in the clear and must turn to TLS before anything is said; port 587 unless stated. */
            STARTTLS,
            /** TLS from the beginning; port 465 unless stated. */
            TLS,
            /** In the clear, for a server on the same machine; port 25 unless stated. */
            NONE
        }

        /** Checks it. */
        public Mail {
            to = List.copyOf(to);
            if (!Placeholders.startsFilled(server) && !SERVER.matcher(server).matches()) {
                throw new IllegalArgumentException("server: '" + server + "' is not a host, or host:port");
            }
            check("from", from);
            to.forEach(address -> check("to", address));
            if (to.isEmpty() || to.size() > MOST) {
                throw new IllegalArgumentException("to: " + to.size() + " addresses is outside 1 to " + MOST);
            }
            if (user.isPresent() != password.isPresent()) {
                throw new IllegalArgumentException("user and password go together");
            }
        }

        private static void check(String key, String address) {
            if (!Placeholders.startsFilled(address) && !ADDRESS.matcher(address).matches()) {
                throw new IllegalArgumentException(key + ": '" + address + "' is not an address (expected who@host)");
            }
        }

        @Override
        public String word() {
            return "mail";
        }
    }

    /**
     * Runs a program, which is given the notice as JSON on its standard input.
     *
     * @param command the program and its arguments
     * @param timeLimit of one, from 1 s to a minute
     */
    record Program(List<String> command, Duration timeLimit) implements Way {
        /** Checks it. */
        public Program {
            command = List.copyOf(command);
            if (command.isEmpty() || command.get(0).isBlank()) {
                throw new IllegalArgumentException("program: has no program (expected [name, argument, ...])");
            }
            Durations.checked("timeLimit", timeLimit, Duration.ofSeconds(1), LONGEST);
        }

        @Override
        public String word() {
            return "program";
        }
    }

    /** Writes to the log of the process that sends, under {@code dev.brume.notices}, as a warning. */
    record Log() implements Way {
        @Override
        public String word() {
            return "log";
        }
    }

    /**
     * Hands notices to code that an application registered by {@link dev.brume.Brume#receive}.
     *
     * @param receiver its name
     */
    record Code(String receiver) implements Way {
        /** Checks it. */
        public Code {
            Objects.requireNonNull(receiver, "receiver");
            if (!dev.brume.JobName.isName(receiver)) {
                throw new IllegalArgumentException("code: '" + receiver + "' is not a name");
            }
        }

        @Override
        public String word() {
            return "code";
        }
    }
}
