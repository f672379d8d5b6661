package dev.brume;

import java.net.IDN;
import java.net.URI;
import java.net.URISyntaxException;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The target of a request, read from a text (RFC 3986; RFC 5891 for names of hosts in other scripts). Stateless.
 *
 * <p>No message repeats what stands before an {@code @}: it is a password more often than not.
 */
final class HttpTarget {
    private static final int HIGHEST_PORT = 65_535;
    private static final Pattern URL = Pattern.compile(
            "(?i)(https?)://([^/?#@]*@)?(\\[[0-9A-Fa-f:.]+]|[^/?#:@\\[\\]]*)(?::([^/?#]*))?([/?][^#]*)?(?:#.*)?");
    private static final Pattern HOST = Pattern.compile(
            "(?:[A-Za-z0-9](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?)(?:\\.[A-Za-z0-9](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?)*\\.?");

    private HttpTarget() {}

    /**
     * Reads a target.
     *
     * @throws IllegalArgumentException with the reason, if nothing can be called there
     */
    static URI of(String text) {
        Matcher url = URL.matcher(text);
        if (!url.matches()) {
            throw new IllegalArgumentException(
                    "'" + shown(text) + "' is not an absolute URL (expected http://HOST/... or https://HOST/...)");
        }
        if (url.group(2) != null) {
            throw new IllegalArgumentException("'" + shown(text)
                    + "' has a user or password in it, which ends in logs; say it in a header, such as"
                    + " Authorization: \"Basic ${env:NAME}\"");
        }
        String host = host(url.group(3));
        String port = url.group(4) == null || url.group(4).isEmpty() ? "" : ":" + port(url.group(4));
        String rest = url.group(5) == null ? "/" : url.group(5).startsWith("?") ? "/" + url.group(5) : url.group(5);
        try {
            return new URI(new URI(url.group(1).toLowerCase(Locale.ROOT) + "://" + host + port + rest).toASCIIString());
        } catch (URISyntaxException e) {
            throw new IllegalArgumentException("'" + shown(text) + "' is not a URL: " + e.getReason(), e);
        }
    }

    private static String shown(String text) {
        return text.replaceFirst("//[^/?#]*@", "//...@");
    }

    private static String host(String text) {
        if (text.startsWith("[")) {
            return text;
        }
        String ascii;
        try {
            ascii = IDN.toASCII(text, IDN.ALLOW_UNASSIGNED);
        } catch (IllegalArgumentException e) {
            ascii = "";
        }
        if (!HOST.matcher(ascii).matches()) {
            throw new IllegalArgumentException(
                    "'" + text + "' is not the name of a host (expected letters, digits, '-' and dots between)");
        }
        return ascii;
    }

    private static int port(String text) {
        if (!text.matches("[0-9]{1,5}") || Integer.parseInt(text) < 1 || Integer.parseInt(text) > HIGHEST_PORT) {
            // What is no number may be the beginning of a password with a slash in it.
            throw new IllegalArgumentException((text.matches("[0-9]+") ? "port " + text : "the port")
                    + " is not one (expected 1 to " + HIGHEST_PORT + ")");
        }
        return Integer.parseInt(text);
    }
}
