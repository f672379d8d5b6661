package dev.brume;

import java.net.URI;
import java.net.URISyntaxException;
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

/** What a job does when it runs. Implementations are immutable. */
public sealed interface Work {

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
            Placeholders.check("url", url);
            checkUrl(url);
            body.ifPresent(text -> Placeholders.check("body", text));
            headers.forEach((name, value) -> {
                if (!TOKEN.matcher(name).matches() || OF_THE_CONNECTION.contains(name.toLowerCase(Locale.ROOT))) {
                    throw new IllegalArgumentException("headers: '" + name + "' is not a header that can be set");
                }
                Placeholders.check("headers", value);
            });
        }

        private static void checkUrl(String url) {
            if (Placeholders.startsFilled(url)) {
                return;
            }
            try {
                URI uri = new URI(Placeholders.fill(url, place -> "x"));
                if (uri.getHost() != null && List.of("http", "https").contains(uri.getScheme())) {
                    return;
                }
            } catch (URISyntaxException e) {
                throw new IllegalArgumentException("url: '" + url + "' is not a URL: " + e.getReason(), e);
            }
            throw new IllegalArgumentException(
                    "url: '" + url + "' is not an absolute URL (expected http://HOST/... or https://HOST/...)");
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
         * @throws IllegalArgumentException if the name is blank or over 200 characters
         */
        public Registered {
            if (handler.isBlank() || handler.length() > 200) {
                throw new IllegalArgumentException("handler: '" + handler + "' is not a name (1 to 200 characters)");
            }
        }

        @Override
        public String toString() {
            return "handler " + handler;
        }
    }

    /** {@return the name of the handler an instance needs to do this work, empty if it needs none} */
    default Optional<String> neededHandler() {
        return this instanceof Registered registered ? Optional.of(registered.handler()) : Optional.empty();
    }
}
