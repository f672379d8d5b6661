package dev.brume.http.internal.access;

import jakarta.servlet.http.HttpServletRequest;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Where a request came from, and how it was addressed.
 *
 * @param address of whoever sent it
 * @param isSecure whether it was encrypted on its way
 * @param host that it was meant for, in lower case, with its port if it has one
 */
public record Sender(String address, boolean isSecure, String host) {
    private static final Pattern FOR =
            Pattern.compile("for=\"?\\[?([0-9A-Fa-f.:]{2,45})\\]?(?::\\d+)?\"?", Pattern.CASE_INSENSITIVE);
    private static final Pattern PROTO = Pattern.compile("proto=\"?(https?)\"?", Pattern.CASE_INSENSITIVE);
    private static final Pattern HOST =
            Pattern.compile("host=\"?([A-Za-z0-9.:\\[\\]-]{1,255})\"?", Pattern.CASE_INSENSITIVE);
    /** An address in numbers: it is not looked up, as a name would be. */
    private static final Pattern NUMBERS =
            Pattern.compile("\\d{1,3}(?:\\.\\d{1,3}){3}|[0-9A-Fa-f.]{0,40}:[0-9A-Fa-f:.]{0,40}");

    private static final Pattern LOCAL_NAME =
            Pattern.compile("(localhost|127\\.\\d{1,3}\\.\\d{1,3}\\.\\d{1,3}|\\[::1\\])(:\\d{1,5})?");

    /**
     * {@return where a request came from}
     *
     * @param proxies whose word on it is taken (RFC 7239): of nobody else's the header is read
     */
    public static Sender of(HttpServletRequest request, Set<String> proxies) {
        String host = Optional.ofNullable(request.getHeader("Host")).orElse("").toLowerCase(Locale.ROOT);
        Sender plain = new Sender(plain(request.getRemoteAddr()), request.isSecure(), host);
        String forwarded = request.getHeader("Forwarded");
        if (forwarded == null || !proxies.contains(plain.address)) {
            return plain;
        }
        // The last element is what the nearest proxy has added; those before it anybody may have written.
        String last = forwarded.substring(forwarded.lastIndexOf(',') + 1);
        return new Sender(
                found(FOR, last).map(Sender::plain).orElse(plain.address),
                found(PROTO, last).map("https"::equalsIgnoreCase).orElse(plain.isSecure),
                found(HOST, last).map(name -> name.toLowerCase(Locale.ROOT)).orElse(host));
    }

    private static Optional<String> found(Pattern pattern, String text) {
        Matcher matcher = pattern.matcher(text);
        return matcher.find() ? Optional.of(matcher.group(1)) : Optional.empty();
    }

    /** {@return an address as it is written shortest} */
    private static String plain(String address) {
        String bare = address == null ? "" : address.replace("[", "").replace("]", "");
        if (bare.indexOf(':') < 0 || !NUMBERS.matcher(bare).matches()) {
            return bare;
        }
        try {
            return InetAddress.getByName(bare).getHostAddress();
        } catch (UnknownHostException e) {
            return bare;
        }
    }

    /** {@return whether it came from this machine} */
    public boolean isLocal() {
        try {
            return NUMBERS.matcher(address).matches()
                    && InetAddress.getByName(address).isLoopbackAddress();
        } catch (UnknownHostException e) {
            return false;
        }
    }

    /** {@return whether it was meant for a name that every machine has for itself; a page from elsewhere cannot say one} */
    public boolean isForLocalName() {
        return LOCAL_NAME.matcher(host).matches();
    }
}
