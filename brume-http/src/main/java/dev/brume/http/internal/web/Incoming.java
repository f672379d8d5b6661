package dev.brume.http.internal.web;

import jakarta.servlet.http.Cookie;
import jakarta.servlet.http.HttpServletRequest;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/** A request as it came in, read within bounds. Confined to one thread. */
public final class Incoming {
    private static final int MOST_PARAMETERS = 100;
    private static final long LONGEST_NANOS = 20_000_000_000L;

    private final HttpServletRequest request;
    private final String address;
    private final Map<String, List<String>> query;
    private final String base;
    private final String path;

    /**
     * Creates it.
     *
     * @param address from where it came
     * @param longestQuery in characters
     */
    public Incoming(HttpServletRequest request, String address, int longestQuery) {
        this.request = request;
        this.address = address;
        this.query = read(request.getQueryString(), longestQuery);
        this.base = request.getContextPath() + request.getServletPath();
        this.path = path(request.getRequestURI(), base);
    }

    /** By hand, since a container would take parameters out of bodies too. */
    private static Map<String, List<String>> read(String query, int longest) {
        Map<String, List<String>> parameters = new LinkedHashMap<>();
        if (query == null || query.isEmpty()) {
            return parameters;
        }
        if (query.length() > longest) {
            throw new Problem(
                    Problem.Kind.INVALID,
                    "the query of the address is " + query.length() + " characters (at most " + longest + ")");
        }
        String[] parts = query.split("&");
        if (parts.length > MOST_PARAMETERS) {
            throw new Problem(
                    Problem.Kind.INVALID,
                    "the query of the address has " + parts.length + " parameters (at most " + MOST_PARAMETERS + ")");
        }
        for (String part : parts) {
            if (!part.isEmpty()) {
                int sign = part.indexOf('=');
                String name = decoded(sign < 0 ? part : part.substring(0, sign));
                parameters
                        .computeIfAbsent(name, any -> new ArrayList<>())
                        .add(sign < 0 ? "" : decoded(part.substring(sign + 1)));
            }
        }
        return parameters;
    }

    private static String decoded(String text) {
        try {
            return URLDecoder.decode(text, StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            throw new Problem(
                    Problem.Kind.INVALID, "the query of the address has a % that no two hexadecimal digits follow");
        }
    }

    /** {@return the parameters of the address} */
    public Map<String, List<String>> query() {
        return query;
    }

    /** Forgets the parameters without a value: a form sends those that nobody filled in too. */
    public void dropBlanks() {
        query.values().removeIf(values -> values.stream().allMatch(String::isBlank));
    }

    /** {@return from where it came} */
    public String address() {
        return address;
    }

    /** {@return the path within the servlet, as it was sent: a slash that is part of a name is still escaped} */
    public String path() {
        return path;
    }

    private static String path(String address, String base) {
        String path = address.startsWith(base) ? address.substring(base.length()) : address;
        int parameter = path.indexOf(';');
        String plain = parameter < 0 ? path : path.substring(0, parameter);
        return plain.isEmpty() ? "/" : plain;
    }

    /** {@return the parts of a path between its slashes, decoded} */
    public static List<String> segments(String path) {
        List<String> segments = new ArrayList<>();
        for (String part : path.split("/", -1)) {
            try {
                segments.add(URLDecoder.decode(part.replace("+", "%2B"), StandardCharsets.UTF_8));
            } catch (IllegalArgumentException e) {
                throw new Problem(Problem.Kind.INVALID, "the path has a % that no two hexadecimal digits follow");
            }
        }
        return segments;
    }

    /** {@return the path of the servlet itself, to begin addresses with} */
    public String base() {
        return base;
    }

    /** {@return a header, if there is one} */
    public Optional<String> header(String name) {
        return Optional.ofNullable(request.getHeader(name)).map(String::strip);
    }

    /** {@return the value of a cookie, if there is one; of several of a name, the first} */
    public Optional<String> cookie(String name) {
        Cookie[] cookies = request.getCookies();
        return cookies == null
                ? Optional.empty()
                : Arrays.stream(cookies)
                        .filter(cookie -> cookie.getName().equals(name))
                        .map(Cookie::getValue)
                        .findFirst();
    }

    /** {@return whether whoever asks shows pages: a browser, rather than a program} */
    public boolean showsPages() {
        return header("Accept").filter(types -> types.contains("text/html")).isPresent();
    }

    /** {@return the type of the body without its parameters; empty if none is stated} */
    public String contentType() {
        String type = request.getContentType();
        return type == null ? "" : type.replaceFirst(";.*", "").strip().toLowerCase(Locale.ROOT);
    }

    /** {@return how many seconds to wait for the end of what is ordered, if that is preferred (RFC 7240)} */
    public Optional<Integer> wait(int most) {
        return header("Prefer").flatMap(text -> {
            for (String part : text.split("[,;]")) {
                if (part.strip().matches("(?i)wait\\s*=\\s*\\d{1,6}")) {
                    return Optional.of(Math.min(most, Integer.parseInt(part.replaceAll("\\D", ""))));
                }
            }
            return Optional.empty();
        });
    }

    /** {@return the body} */
    public byte[] body(int longest) {
        long stated = request.getContentLengthLong();
        if (stated > longest) {
            throw tooLong(longest);
        }
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        byte[] some = new byte[8192];
        long begun = System.nanoTime();
        try {
            InputStream in = request.getInputStream();
            for (int read = in.read(some); read >= 0; read = in.read(some)) {
                bytes.write(some, 0, read);
                if (bytes.size() > longest) {
                    throw tooLong(longest);
                }
                if (System.nanoTime() - begun > LONGEST_NANOS) {
                    throw new Problem(Problem.Kind.TOO_SLOW, "the body did not come within 20 seconds")
                            .with("Connection", "close");
                }
            }
        } catch (IOException e) {
            throw new Problem(Problem.Kind.INVALID, "the body could not be read to its end");
        }
        return bytes.toByteArray();
    }

    private static Problem tooLong(int longest) {
        return new Problem(Problem.Kind.TOO_LARGE, "the body is longer than " + longest + " bytes")
                .with("Connection", "close");
    }
}
