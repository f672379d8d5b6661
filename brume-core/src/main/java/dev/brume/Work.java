package dev.brume;

import dev.brume.internal.text.Payloads;
import dev.brume.internal.text.Placeholders;
import dev.brume.internal.text.Texts;
import java.net.URI;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Pattern;

/**
 * The work of a job: a handler, a program, or an HTTP request. Implementations are immutable.
 *
 * @since 0.1.0
 */
public sealed interface Work {
    /** How many arguments, variables or headers there may be. */
    int MOST_ARGUMENTS = 1000;

    /** How long an argument or a variable may be, in characters; systems allow 128 KiB. */
    int LONGEST_ARGUMENT = 30_000;

    /** How long a path may be, in characters. */
    int LONGEST_PATH = 4096;

    /** How long a URL or a header may be, in characters. */
    int LONGEST_URL = 8000;

    /** How long a handler's name may be, in characters. */
    int LONGEST_HANDLER = 200;

    /**
     * Runs a program; its standard output and error are captured, its exit code decides.
     *
     * @param command the program and its arguments, at least the program; no shell reads it
     * @param environment variables added to the instance's own
     * @param folder where it runs, the instance's working folder if empty
     */
    record Program(List<String> command, Map<String, String> environment, Optional<String> folder) implements Work {

        /**
         * Creates the work, copying both collections.
         *
         * @throws IllegalArgumentException if the command is empty
         */
        public Program {
            command = List.copyOf(command);
            environment = Map.copyOf(new TreeMap<>(environment));
            Objects.requireNonNull(folder, "folder");
            if (command.size() > MOST_ARGUMENTS || environment.size() > MOST_ARGUMENTS) {
                throw new IllegalArgumentException("program: more than " + MOST_ARGUMENTS + " arguments or variables");
            }
            command.forEach(argument -> Texts.checked("program", argument, LONGEST_ARGUMENT));
            environment.forEach((name, value) -> {
                Texts.checked("environment", name, LONGEST_ARGUMENT);
                Texts.checked("environment: " + name, value, LONGEST_ARGUMENT);
            });
            folder.ifPresent(text -> Texts.checked("folder", text, LONGEST_PATH));
            if (command.isEmpty() || command.get(0).isBlank()) {
                throw new IllegalArgumentException("program: names no program (expected at least one argument)");
            }
        }

        @Override
        public String toString() {
            return String.join(" ", command);
        }
    }

    /**
     * Makes an HTTP request; the status of the answer decides, its body is the result. Texts may have {@link Placeholders}.
     *
     * @param method such as POST
     * @param url absolute, http or https
     * @param headers beside those that tell of the run
     * @param body empty for none
     * @param expected statuses that mean success, 200 to 299 if empty
     */
    record Request(String method, String url, Map<String, String> headers, Optional<String> body, Set<Integer> expected)
            implements Work {
        private static final Pattern TOKEN = Pattern.compile("[A-Za-z0-9!#$%&'*+.^_`|~-]+");
        private static final String BEYOND =
                "characters beyond US-ASCII, or control characters, which a header cannot carry"
                        + " (RFC 9110, 5.5); encode it, in percent or Base64";
        private static final Set<String> OF_THE_CONNECTION =
                Set.of("connection", "content-length", "expect", "host", "upgrade");

        /**
         * Creates the work, copying its collections.
         *
         * @throws IllegalArgumentException if a part cannot be sent
         */
        public Request {
            headers = Collections.unmodifiableMap(new TreeMap<>(headers));
            expected = Collections.unmodifiableSet(new TreeSet<>(expected));
            Objects.requireNonNull(body, "body");
            if (!method.matches("[A-Z]{1,20}")) {
                throw new IllegalArgumentException(
                        "method: '" + method + "' is not a method (expected capital letters, such as POST)");
            }
            Texts.checked("url", url, LONGEST_URL);
            if (headers.size() > MOST_ARGUMENTS) {
                throw new IllegalArgumentException("headers: more than " + MOST_ARGUMENTS);
            }
            body.ifPresent(text -> Texts.checked("body", text, Payloads.LONGEST));
            headers.forEach((name, value) -> Texts.checked("headers: " + name, value, LONGEST_URL));
            Placeholders.check("url", url);
            checkUrl(url);
            body.ifPresent(text -> Placeholders.check("body", text));
            headers.forEach((name, value) -> {
                if (!TOKEN.matcher(name).matches() || OF_THE_CONNECTION.contains(name.toLowerCase(Locale.ROOT))) {
                    throw new IllegalArgumentException("headers: '" + name + "' is not a header that can be set");
                }
                Placeholders.check("headers", value);
                if (!isSendable(value)) {
                    throw new IllegalArgumentException("headers: " + name + ": '" + value + "' has " + BEYOND);
                }
            });
        }

        private static void checkUrl(String url) {
            if (Placeholders.startsFilled(url)) {
                return;
            }
            try {
                // A digit fits wherever a place may stand, in a name as in a port.
                target(Placeholders.fill(url, place -> "1"));
            } catch (IllegalArgumentException e) {
                throw new IllegalArgumentException("url: " + e.getMessage(), e);
            }
        }

        /**
         * {@return where a request goes: the URL in US-ASCII, without its fragment}
         *
         * @param url with all places filled
         * @throws IllegalArgumentException if it is not an absolute URL of http or https, names no host that can be, or holds a
         *     user or password; the message does not repeat those
         */
        public static URI target(String url) {
            return HttpTarget.of(url);
        }

        private static boolean isSendable(String value) {
            return value.chars().allMatch(at -> at == '\t' || at >= 0x20 && at < 0x7f);
        }

        /**
         * Checks what a header is to say.
         *
         * @param value with all places filled
         * @throws IllegalArgumentException if it has characters that cannot be sent unchanged; the message does not repeat it
         */
        public static void checkHeader(String name, String value) {
            if (!isSendable(value)) {
                throw new IllegalArgumentException("header " + name + " has " + BEYOND);
            }
        }

        /** {@return whether a status means success} */
        public boolean expects(int status) {
            return expected.isEmpty() ? status >= 200 && status < 300 : expected.contains(status);
        }

        @Override
        public String toString() {
            return method + " " + url;
        }
    }

    /**
     * Calls a {@link Handler} that the running instance has registered under a name.
     *
     * @param handler the name
     */
    record Registered(String handler) implements Work {

        /**
         * Creates the work.
         *
         * @throws IllegalArgumentException if the name is blank, over 200 characters, or stands for a kind of work
         */
        public Registered {
            Texts.checked("handler", handler, LONGEST_HANDLER);
            if (handler.isBlank() || handler.equals(PROGRAMS) || handler.equals(REQUESTS)) {
                throw new IllegalArgumentException("handler: '" + handler + "' is not a name (1 to 200 characters; "
                        + PROGRAMS + " and " + REQUESTS + " stand for kinds of work)");
            }
        }

        @Override
        public String toString() {
            return "handler " + handler;
        }
    }

    /** The ability of an instance that takes programs; no handler has such a name. */
    String PROGRAMS = "(programs)";

    /** The ability of an instance that takes requests. */
    String REQUESTS = "(requests)";

    /** {@return what an instance must have to be given this work: the name of a handler, {@link #PROGRAMS} or {@link #REQUESTS}} */
    default String needs() {
        return this instanceof Registered registered
                ? registered.handler()
                : this instanceof Program ? PROGRAMS : REQUESTS;
    }

    /** {@return what somebody has that such a work needs, in words} */
    static String inWords(String need) {
        return switch (need) {
            case PROGRAMS -> "takes programs";
            case REQUESTS -> "takes requests";
            default -> "has the handler '" + need + "'";
        };
    }

    /** {@return the name of the handler an instance needs to do this work, empty if it needs none} */
    default Optional<String> neededHandler() {
        return this instanceof Registered registered ? Optional.of(registered.handler()) : Optional.empty();
    }
}
