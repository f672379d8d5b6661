package dev.brume;

import java.lang.reflect.Type;
import org.jspecify.annotations.Nullable;

/** A type of payload that follows the choice of what reads JSON, which may come after it. Safe for use by many threads. */
final class ChosenJson<T> {
    private final String name;
    private final Type type;
    private volatile @Nullable Made<T> made;

    private record Made<T>(JsonPayloads by, PayloadType<T> type) {}

    ChosenJson(String name, Type type) {
        this.name = name;
        this.type = type;
    }

    PayloadType<T> now() {
        JsonPayloads chosen = JsonPayloads.chosen();
        Made<T> known = made;
        if (known == null || known.by != chosen) {
            known = new Made<>(chosen, chosen.type(name, type));
            made = known;
        }
        return known.type;
    }
}
