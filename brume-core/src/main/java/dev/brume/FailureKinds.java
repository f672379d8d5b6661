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
 * Kinds of failure, which another attempt would mend, or would not.
 *
 * @see IfFailed#giveUpOn
 * @see IfFailed#retryOn
 *
 * @since 0.1.0
 */
public final class FailureKinds {
    /** No kind. */
    public static final FailureKinds NONE = new FailureKinds(Set.of(), Set.of(), Set.of());

    private final Set<String> errors;
    private final Set<Integer> exitCodes;
    private final Set<Integer> statuses;

    private FailureKinds(Set<String> errors, Set<Integer> exitCodes, Set<Integer> statuses) {
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

    /** {@return exceptions of some classes and those that extend them, thrown or the cause of what was thrown} */
    public static FailureKinds errors(List<Class<? extends Throwable>> types) {
        return new FailureKinds(types.stream().map(Class::getName).collect(Collectors.toSet()), Set.of(), Set.of());
    }

    /** {@return some exit codes of programs} */
    public static FailureKinds exitCodes(int... codes) {
        return new FailureKinds(Set.of(), IntStream.of(codes).boxed().collect(Collectors.toSet()), Set.of());
    }

    /** {@return some statuses of HTTP answers} */
    public static FailureKinds statuses(int... codes) {
        return new FailureKinds(Set.of(), Set.of(), IntStream.of(codes).boxed().collect(Collectors.toSet()));
    }

    /** {@return whether there are none} */
    public boolean isEmpty() {
        return errors.isEmpty() && exitCodes.isEmpty() && statuses.isEmpty();
    }

    /** {@return whether a failure is of one of them} */
    public boolean matches(Failure failure) {
        return failure.exitCode().filter(exitCodes::contains).isPresent()
                || failure.status().filter(statuses::contains).isPresent()
                || failure.errorTypes().stream()
                        .anyMatch(type ->
                                errors.contains(type) || errors.contains(type.substring(type.lastIndexOf('.') + 1)));
    }

    /** {@return a copy with exceptions of some names, full or simple} */
    public FailureKinds andErrors(Set<String> names) {
        return new FailureKinds(joined(errors, names), exitCodes, statuses);
    }

    /** {@return a copy with some exit codes of programs} */
    public FailureKinds andExitCodes(Set<Integer> codes) {
        return new FailureKinds(errors, joined(exitCodes, codes), statuses);
    }

    /** {@return a copy with some statuses of HTTP answers} */
    public FailureKinds andStatuses(Set<Integer> codes) {
        return new FailureKinds(errors, exitCodes, joined(statuses, codes));
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
        return other instanceof FailureKinds that && parts().equals(that.parts());
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
        return "FailureKinds" + parts();
    }
}
