package dev.brume;

import java.util.List;
import java.util.Objects;
import java.util.concurrent.atomic.AtomicReference;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** What reads payloads as JSON in this process. Safe for use by many threads. */
final class JsonChoice {
    private static final AtomicReference<@Nullable JsonPayloads> CHOSEN = new AtomicReference<>();

    private JsonChoice() {}

    static void set(JsonPayloads payloads) {
        CHOSEN.set(Objects.requireNonNull(payloads, "payloads"));
    }

    static JsonPayloads get() {
        JsonPayloads known = CHOSEN.get();
        if (known != null) {
            return known;
        }
        List<JsonPayloads> found = JsonPayloads.found();
        if (found.size() != 1) {
            throw new IllegalStateException(unclear(found));
        }
        CHOSEN.compareAndSet(null, found.get(0));
        return Objects.requireNonNull(CHOSEN.get(), "nobody takes a choice back");
    }

    private static String unclear(List<JsonPayloads> found) {
        return found.isEmpty()
                ? "nothing here reads payloads as JSON (add brume-jackson2 or brume-jackson3, whichever Jackson the application has)"
                : "payloads could be read as JSON by "
                        + found.stream().map(JsonPayloads::name).collect(Collectors.joining(" or by "))
                        + " (leave one of the modules out, or choose: JsonPayloads.choose(...), in a Spring application brume.json="
                        + found.get(0).name() + ")";
    }
}
