package dev.brume.insight.tally;

import dev.brume.JobName;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.Timeframe;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/**
 * Reads accounts in sums by the hour, and those in lines for which sums do not suffice. Stateless.
 *
 * @since 0.1.0
 */
public final class Accounts {
    /** Above it, one pass over all jobs is faster. */
    private static final int MANY = 2_000;

    private Accounts() {}

    /**
     * Reads.
     *
     * @param figures what is to be known of each job; empty if its lines are needed for that
     * @return the figures, in no particular order
     */
    public static <T> List<T> read(History history, Timeframe frame, Function<JobAccount, Optional<T>> figures) {
        List<T> found = new ArrayList<>();
        Set<Long> missing = new HashSet<>();
        Set<JobName> names = new LinkedHashSet<>();
        history.accounts(
                frame.inSums(),
                account -> figures.apply(account).ifPresentOrElse(found::add, () -> {
                    missing.add(account.id());
                    names.add(account.name());
                }));
        if (!names.isEmpty()) {
            history.accounts(among(names, frame), account -> {
                if (missing.contains(account.id())) {
                    found.add(figures.apply(account).orElseThrow());
                }
            });
        }
        return found;
    }

    /** {@return a timeframe of some jobs, or of all where they are so many that this is faster} */
    static Timeframe among(Set<JobName> names, Timeframe frame) {
        return names.size() > MANY ? frame : frame.of(names);
    }
}
