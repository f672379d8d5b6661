package dev.brume.http.internal.console;

import dev.brume.http.internal.web.Reply;
import java.util.Map;

/** The form that asks when something shall happen, for pages of applications. Stateless. */
public final class Embedded {
    private Embedded() {}

    /**
     * {@return the page; it is told by the page around it whose token it uses}
     *
     * @param base the path that all addresses begin with
     */
    public static Reply page(String base) {
        return Html.page("embed", Map.of("base", base));
    }
}
