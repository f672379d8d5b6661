package dev.brume;

import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/**
 * Failures that another attempt would not mend.
 *
 * @since 0.1.0
 */
public final class GiveUpOn {
    /** Every failure may be tried again. */
    public static final GiveUpOn NOTHING = new GiveUpOn(Set.of(), Set.of(), Set.of());

    private final Set<String> errors;
    private final Set<Integer> exitCodes;
    private final Set<Integer> statuses;

    private GiveUpOn(Set<String> errors, Set<Integer> exitCodes, Set<Integer> statuses) {
        errors = sorted(errors);
        exitCodes = sorted(exitCodes);
        statuses = sorted(statuses);
        this.errors = errors;
        this.exitCodes = exitCodes;
        this.statuses = statuses;
    }

    private static <T extends Comparable<T>> Set<T> sorted(Set<T> values) {
        return Collections.unmodifiableSet(new TreeSet<>(values));
    }

    /** Gives up on some exceptions and whatever extends them. */
    public static GiveUpOn errors(List<Class<? extends Throwable>> types) {
        return new GiveUpOn(types.stream().map(Class::getName).collect(Collectors.toSet()), Set.of(), Set.of());
    }

    /** Gives up on some exit codes of programs. */
    public static GiveUpOn exitCodes(int... codes) {
        return new GiveUpOn(Set.of(), IntStream.of(codes).boxed().collect(Collectors.toSet()), Set.of());
    }

    /** Gives up on some statuses of HTTP answers. */
    public static GiveUpOn statuses(int... codes) {
        return new GiveUpOn(Set.of(), Set.of(), IntStream.of(codes).boxed().collect(Collectors.toSet()));
    }

    /** {@return whether a failure is final} */
    public boolean matches(Failure failure) {
        return failure.exitCode().filter(exitCodes::contains).isPresent()
                || failure.status().filter(statuses::contains).isPresent()
                || failure.errorTypes().stream()
                        .anyMatch(type ->
                                errors.contains(type) || errors.contains(type.substring(type.lastIndexOf('.') + 1)));
    }

    /** {@return a copy that also gives up on exceptions of some names, full or simple} */
    public GiveUpOn andErrors(Set<String> names) {
        return new GiveUpOn(joined(errors, names), exitCodes, statuses);
    }

    /** {@return a copy that also gives up on some exit codes of programs} */
    public GiveUpOn andExitCodes(Set<Integer> codes) {
        return new GiveUpOn(errors, joined(exitCodes, codes), statuses);
    }

    /** {@return a copy that also gives up on some statuses of HTTP answers} */
    public GiveUpOn andStatuses(Set<Integer> codes) {
        return new GiveUpOn(errors, exitCodes, joined(statuses, codes));
    }

    private static <T> Set<T> joined(Set<T> one, Set<T> other) {
        Set<T> all = new HashSet<>(one);
        all.addAll(other);
        return all;
    }

    /** {@return the names of exceptions, full or simple; those that extend them count too} */
    public Set<String> errors() {
        return errors;
    }

    /** {@return the exit codes of programs} */
    public Set<Integer> exitCodes() {
        return exitCodes;
    }

    /** {@return the statuses of HTTP answers} */
    public Set<Integer> statuses() {
        return statuses;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof GiveUpOn that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<Object> parts() {
        return List.of(errors, exitCodes, statuses);
    }

    @Override
    public String toString() {
        return "GiveUpOn" + parts();
    }
}
