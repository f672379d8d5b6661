package dev.brume.http.internal.web;

import dev.brume.schedule.Nearest;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/** Lists that are answered a page at a time: each says where the next begins (RFC 8288). Stateless. */
public final class Pages {
    /** How many are shown at most. */
    public static final Param<Integer> LIMIT =
            Param.number("limit", "How many are shown at most; 100 unless given.", 1, 1000, 10);

    /** Where the page begins. */
    public static final Param<String> CURSOR = new Param<>(
            "cursor",
            "Where the page begins: as the Link header of the page before says it.",
            Map.of("type", "string"),
            "",
            Pages::decoded);

    /** Which members are shown. */
    public static final Param<List<String>> FIELDS = new Param<>(
            "fields",
            "Which members are shown, with commas between them; all unless given.",
            Map.of("type", "string"),
            "job",
            text -> List.of(text.split(",")));

    private static final int USUAL = 100;

    private Pages() {}

    /** {@return how many are shown} */
    public static int limit(Call call) {
        return call.get(LIMIT).orElse(USUAL);
    }

    /**
     * {@return the answer of a page}
     *
     * @param found one more than are shown, if there are more
     * @param view of each
     * @param cursor of the last that is shown
     */
    public static <T> Reply reply(
            Call call, List<T> found, Function<T, Map<String, Object>> view, Function<T, String> cursor) {
        if (found.isEmpty()) {
            fields(call, Map.of());
        }
        int limit = limit(call);
        List<T> shown = found.size() > limit ? found.subList(0, limit) : found;
        Reply reply = Reply.json(
                shown.stream().map(view).map(map -> fields(call, map)).toList());
        if (found.size() <= limit) {
            return reply;
        }
        return reply.with("Link", "<" + address(call, cursor.apply(shown.get(shown.size() - 1))) + ">; rel=\"next\"");
    }

    /** {@return the answer of a list that has no pages} */
    public static <T> Reply all(Call call, List<T> found, Function<T, Map<String, Object>> view) {
        if (found.isEmpty()) {
            fields(call, Map.of());
        }
        return Reply.json(found.stream().map(view).map(map -> fields(call, map)).toList());
    }

    /** {@return a view of one, with the members that are asked for} */
    public static Map<String, Object> fields(Call call, Map<String, Object> view) {
        Optional<List<String>> wanted = call.get(FIELDS);
        if (wanted.isEmpty()) {
            return view;
        }
        List<String> unknown = new ArrayList<>(wanted.get());
        List<String> known = new ArrayList<>(
                call.operation().answer().members().map(List::copyOf).orElseGet(() -> List.copyOf(view.keySet())));
        unknown.removeAll(known);
        if (!unknown.isEmpty()) {
            throw Problem.ofParameter(
                    FIELDS.name(),
                    "unknown member '" + Param.shortened(unknown.get(0)) + "' (allowed: " + String.join(", ", known)
                            + ")"
                            + Nearest.to(Param.shortened(unknown.get(0)), known)
                                    .map(near -> "; did you mean " + near + "?")
                                    .orElse(""));
        }
        Map<String, Object> some = new LinkedHashMap<>();
        wanted.get().forEach(name -> some.put(name, view.get(name)));
        return some;
    }

    private static String address(Call call, String cursor) {
        StringBuilder address = new StringBuilder(
                call.incoming().base() + call.incoming().path().replace(" ", "%20") + "?");
        call.incoming().query().forEach((name, values) -> {
            if (!name.equals(CURSOR.name())) {
                values.forEach(value -> address.append(encoded(name))
                        .append('=')
                        .append(encoded(value))
                        .append('&'));
            }
        });
        return address.append(CURSOR.name())
                .append('=')
                .append(Base64.getUrlEncoder().withoutPadding().encodeToString(cursor.getBytes(StandardCharsets.UTF_8)))
                .toString();
    }

    private static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8);
    }

    private static String decoded(String text) {
        try {
            return new String(Base64.getUrlDecoder().decode(text), StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            throw noCursor();
        }
    }

    /** {@return what is said where a cursor is none} */
    public static IllegalArgumentException noCursor() {
        return new IllegalArgumentException(
                "is no place in this list (expected what the Link header of the page before says)");
    }

    /** {@return what a cursor says, read by something that may refuse it} */
    public static <T> Optional<T> cursor(Call call, Function<String, T> reading) {
        return call.get(CURSOR).map(text -> {
            try {
                return reading.apply(text);
            } catch (RuntimeException e) {
                throw Problem.ofParameter(
                        CURSOR.name(), String.valueOf(noCursor().getMessage()));
            }
        });
    }
}
