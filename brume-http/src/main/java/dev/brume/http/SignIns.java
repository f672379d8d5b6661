package dev.brume.http;

import dev.brume.http.internal.access.OwnDoor;
import dev.brume.http.internal.access.Sender;
import dev.brume.http.internal.access.WrongToken;
import dev.brume.http.internal.web.Incoming;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import jakarta.servlet.http.HttpServletRequest;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.Optional;

/** The pages on which people sign in and out. They work without scripts. */
final class SignIns {
    private static final String SIGN_IN = "/sign-in";
    private static final String SIGN_OUT = "/sign-out";
    private static final String OPEN = "/open/";
    private static final String STYLE = "/style.css";
    private static final String HTML = "text/html";
    private static final int LONGEST_FORM = 2_000;
    private static final String CSS = """
            :root { color-scheme: light dark; }
            body { font: 1rem/1.5 system-ui, sans-serif; max-width: 38rem; margin: 12vh auto; padding: 0 1rem; }
            h1 { font-size: 1.3rem; font-weight: 600; }
            label, input, button { display: block; font: inherit; }
            input { width: 100%; box-sizing: border-box; padding: .5rem; margin: .25rem 0 1rem; border: 1px solid #767676; border-radius: 3px; }
            button { padding: .5rem 1.25rem; border: 1px solid #767676; border-radius: 3px; cursor: pointer; }
            :focus-visible { outline: 3px solid #2f6f9f; outline-offset: 2px; }
            .wrong { border-left: 4px solid #a33; padding-left: .75rem; }
            code, pre { font: .9rem/1.5 ui-monospace, monospace; }
            pre { overflow-x: auto; padding: .75rem; border: 1px solid #8885; border-radius: 3px; }
            """;

    private final Optional<OwnDoor> door;

    SignIns(Optional<OwnDoor> door) {
        this.door = door;
    }

    /** Answers what these pages are asked for; empty for everything else, and where the application says who people are. */
    Optional<Reply> answer(HttpServletRequest request, Sender from, Incoming incoming) {
        if (incoming.path().equals(STYLE)) {
            return Optional.of(Reply.of(200, "text/css", CSS));
        }
        if (door.isEmpty()) {
            return Optional.empty();
        }
        OwnDoor own = door.get();
        boolean looks = request.getMethod().equals("GET") || request.getMethod().equals("HEAD");
        // HEAD does not use a link up: programs that preview links ask with it.
        if (incoming.path().startsWith(OPEN) && request.getMethod().equals("GET")) {
            String secret = incoming.path().substring(OPEN.length());
            return Optional.of(own.open(secret, from)
                    .map(cookie -> welcome(incoming, from, cookie))
                    .orElseGet(() -> page(
                            403,
                            incoming,
                            "<p class=\"wrong\" role=\"alert\">This link has worked once, or was never made. The next start"
                                    + " makes another.</p>" + form(incoming))));
        }
        if (incoming.path().equals(SIGN_IN)) {
            own.checkPlace(from);
            return Optional.of(looks ? page(200, incoming, form(incoming)) : signIn(request, own, from, incoming));
        }
        if (incoming.path().equals(SIGN_OUT) && !looks) {
            SameSite.check(request, from);
            OwnDoor.cookie(request).ifPresent(own::signOut);
            return Optional.of(Reply.nothing(303)
                    .with("Location", incoming.base() + SIGN_IN)
                    .with("Set-Cookie", cookie(incoming, from, "", 0)));
        }
        return Optional.empty();
    }

    private static Reply signIn(HttpServletRequest request, OwnDoor own, Sender from, Incoming incoming) {
        SameSite.check(request, from);
        if (!incoming.contentType().equals("application/x-www-form-urlencoded")) {
            throw new Problem(Problem.Kind.UNKNOWN_FORM, "expected a form");
        }
        try {
            return welcome(incoming, from, own.signIn(token(incoming), from));
        } catch (WrongToken e) {
            throw e.saying(page(
                    401,
                    incoming,
                    "<p class=\"wrong\" role=\"alert\">" + escaped(String.valueOf(e.getMessage())) + ".</p>"
                            + form(incoming)));
        }
    }

    private static String token(Incoming incoming) {
        String form = new String(incoming.body(LONGEST_FORM), StandardCharsets.UTF_8);
        for (String part : form.split("&")) {
            if (part.startsWith("token=")) {
                try {
                    return URLDecoder.decode(part.substring(6), StandardCharsets.UTF_8)
                            .strip();
                } catch (IllegalArgumentException e) {
                    return "";
                }
            }
        }
        return "";
    }

    private static Reply welcome(Incoming incoming, Sender from, String secret) {
        return Reply.nothing(303)
                .with("Location", incoming.base() + "/")
                .with("Set-Cookie", cookie(incoming, from, secret, OwnDoor.SIGNED_IN.toSeconds()));
    }

    private static String cookie(Incoming incoming, Sender from, String secret, long seconds) {
        return OwnDoor.COOKIE + "=" + secret + "; Path=" + incoming.base() + "/; Max-Age=" + seconds
                + "; HttpOnly; SameSite=Strict" + (from.isSecure() ? "; Secure" : "");
    }

    /** {@return whether people sign in here, rather than in the application} */
    boolean areHere() {
        return door.isPresent();
    }

    /** {@return where somebody goes first who is to see a page and has not signed in} */
    Reply first(Incoming incoming) {
        return Reply.nothing(303).with("Location", incoming.base() + SIGN_IN);
    }

    private static String form(Incoming incoming) {
        return "<form method=\"post\" action=\"" + incoming.base() + SIGN_IN + "\">"
                + "<label for=\"token\">Token</label>"
                + "<input id=\"token\" name=\"token\" type=\"password\" autocomplete=\"current-password\" required"
                + " autofocus aria-describedby=\"how\">"
                + "<button>Sign in</button></form>"
                + "<p id=\"how\">Whoever may run <code>brume token add NAME --role operator</code> makes one.</p>";
    }

    private static Reply page(int status, Incoming incoming, String content) {
        return Reply.of(
                status,
                HTML,
                "<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><title>Brume</title>"
                        + "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">"
                        + "<link rel=\"stylesheet\" href=\"" + incoming.base() + STYLE + "\"></head>"
                        + "<body><main><h1>Brume</h1>" + content + "</main></body></html>\n");
    }

    private static String escaped(String text) {
        return text.replace("&", "&amp;")
                .replace("<", "&lt;")
                .replace(">", "&gt;")
                .replace("\"", "&quot;");
    }
}
