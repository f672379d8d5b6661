package dev.brume.cli;

import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;

/** Narrows a filter down by what was given on the command line, and by nothing that was not. */
final class Given<F> {
    private F filter;

    private Given(F filter) {
        this.filter = filter;
    }

    static <F> Given<F> to(F filter) {
        return new Given<>(filter);
    }

    <T> Given<F> and(@Nullable T value, BiFunction<F, T, F> by) {
        filter = value == null ? filter : by.apply(filter, value);
        return this;
    }

    F filter() {
        return filter;
    }
}
