package dev.brume;

import java.util.Collections;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * Failures that another attempt would not mend.
 *
 * @param errors names of exceptions, full or simple; those that extend them count too
 * @param exitCodes of programs
 * @param statuses of HTTP answers
 */
public record GiveUpOn(Set<String> errors, Set<Integer> exitCodes, Set<Integer> statuses) {
    /** Every failure may be tried again. */
    public static final GiveUpOn NOTHING = new GiveUpOn(Set.of(), Set.of(), Set.of());

    /** Creates the list, copying its parts. */
    public GiveUpOn {
        errors = sorted(errors);
        exitCodes = sorted(exitCodes);
        statuses = sorted(statuses);
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
}
