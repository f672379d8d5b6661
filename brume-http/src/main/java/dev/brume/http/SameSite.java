package dev.brume.http;

import dev.brume.http.internal.access.Sender;
import dev.brume.http.internal.web.Problem;
import jakarta.servlet.http.HttpServletRequest;
import java.util.Locale;

/** Refuses orders that a browser sends for a page of somebody else's. Stateless. */
final class SameSite {
    private SameSite() {}

    /** A browser says where the page is from, either way; whoever says neither is none, and shows a token. */
    static void check(HttpServletRequest request, Sender from) {
        String site = request.getHeader("Sec-Fetch-Site");
        String origin = request.getHeader("Origin");
        boolean own = site == null
                ? origin != null
                        && origin.toLowerCase(Locale.ROOT)
                                .equals((from.isSecure() ? "https://" : "http://") + from.host())
                : site.equals("same-origin");
        if (!own) {
            throw new Problem(
                    Problem.Kind.NOT_ALLOWED,
                    "an order takes a token (Authorization: Bearer TOKEN), or comes from a page of this very address");
        }
    }
}
