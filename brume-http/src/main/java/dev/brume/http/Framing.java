package dev.brume.http;

import dev.brume.http.internal.console.Embedded;
import dev.brume.http.internal.web.Incoming;
import dev.brume.http.internal.web.Replies;
import dev.brume.http.internal.web.Reply;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.util.Optional;
import java.util.Set;

/** The one page that pages of an application may show within themselves, and the script that puts it there. */
final class Framing {
    private static final String PAGE = "/embed/when";
    private static final String SCRIPT = "/assets/embed.js";

    private final Set<String> origins;

    /**
     * Creates it.
     *
     * @param origins of pages that may; none if nobody may
     */
    Framing(Set<String> origins) {
        this.origins = origins;
    }

    /** Says what a browser may do with the answer to a request. */
    void guard(HttpServletRequest request, HttpServletResponse response) {
        String path = String.valueOf(request.getPathInfo());
        if (!origins.isEmpty() && path.equals(PAGE)) {
            Replies.guard(response, origins);
            return;
        }
        Replies.guard(response);
        if (!origins.isEmpty() && path.equals(SCRIPT)) {
            response.setHeader("Cross-Origin-Resource-Policy", "cross-origin");
        }
    }

    /** {@return the page, which tells nothing by itself; empty for other paths, and where nobody may show it} */
    Optional<Reply> answer(Incoming incoming, String method) {
        boolean looks = method.equals("GET") || method.equals("HEAD");
        return looks && !origins.isEmpty() && incoming.path().equals(PAGE)
                ? Optional.of(Embedded.page(incoming.base()))
                : Optional.empty();
    }
}
