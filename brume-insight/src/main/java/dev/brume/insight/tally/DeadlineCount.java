package dev.brume.insight.tally;

import dev.brume.JobName;
import dev.brume.history.JobAccount;
import dev.brume.history.JobView;
import dev.brume.history.PauseMark;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Collection;
import java.util.Deque;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Counts deadlines that were due and missed, those at the ends of chains included. Confined to one thread. */
final class DeadlineCount {
    private static final Set<Verdict> LEFT_OUT =
            EnumSet.of(Verdict.SKIPPED, Verdict.PAUSED, Verdict.BEYOND_RETENTION, Verdict.UNEXPLAINED);

    private final Instant from;
    private final Instant until;
    private final Set<JobName> paused = new HashSet<>();
    private final Map<JobName, List<JobName>> chainOf = new LinkedHashMap<>();
    private final Set<JobName> inChains = new LinkedHashSet<>();
    private final Map<JobName, JobAccount> members = new HashMap<>();
    private final Map<Long, DeadlineTally> counted = new LinkedHashMap<>();

    private static final class Counting {
        private long due;
        private long missed;
        private final Deque<DeadlineTally.Missed> listed = new ArrayDeque<>();

        void miss(DeadlineTally.Missed which) {
            missed++;
            if (listed.size() == DeadlineTally.MOST_LISTED) {
                listed.removeFirst();
            }
            listed.addLast(which);
        }
    }

    /** How far the chain of an occurrence came: to the run of its last job, if it came so far; left out, if it was to go no further. */
    private record Reached(Optional<JobAccount.Line> last, boolean leftOut) {}

    /**
     * Begins.
     *
     * @param defined all jobs that are defined
     * @param jobs those whose deadlines count
     */
    DeadlineCount(Collection<JobView> defined, Collection<JobName> jobs, Instant from, Instant until) {
        this.from = from;
        this.until = until;
        defined.stream()
                .filter(view -> view.row().pause().state() != PauseMark.State.NONE)
                .forEach(view -> paused.add(view.name()));
        Chains chains = Chains.of(defined);
        jobs.forEach(job -> chainOf.put(job, chains.upTo(job)));
        chainOf.values().stream().filter(chain -> chain.size() > 1).forEach(inChains::addAll);
    }

    /** {@return the jobs whose accounts it needs} */
    Set<JobName> concerned() {
        Set<JobName> all = new LinkedHashSet<>(inChains);
        all.addAll(chainOf.keySet());
        return all;
    }

    /** Takes an account, with its lines rather than their sums. */
    void take(JobAccount account) {
        if (chainOf.getOrDefault(account.name(), List.of()).size() == 1) {
            count(List.of(account)).ifPresent(tally -> counted.put(account.id(), tally));
        }
        if (inChains.contains(account.name()) && !account.dropped()) {
            members.put(account.name(), account);
        }
    }

    /** {@return what it came to, by the ids of jobs, once all accounts were taken} */
    Map<Long, DeadlineTally> counted() {
        chainOf.values().stream()
                .filter(chain -> chain.size() > 1 && members.keySet().containsAll(chain))
                .map(chain -> chain.stream().map(members::get).toList())
                .forEach(chain ->
                        count(chain).ifPresent(tally -> counted.put(last(chain).id(), tally)));
        return counted;
    }

    private static JobAccount last(List<JobAccount> chain) {
        return chain.get(chain.size() - 1);
    }

    private Optional<DeadlineTally> count(List<JobAccount> chain) {
        if (!DeadlineTally.isStatedBy(last(chain).versions())) {
            return Optional.empty();
        }
        List<Map<Long, JobAccount.Line>> children = chain.stream()
                .skip(1)
                .map(account -> account.lines().stream()
                        .filter(line -> line.parent().isPresent())
                        .collect(Collectors.toMap(line -> line.parent().get(), line -> line, (first, again) -> first)))
                .toList();
        Counting counting = new Counting();
        Tally.ofSums(
                chain.get(0),
                from,
                until,
                line -> deadline(chain, line)
                        .filter(until::isAfter)
                        .ifPresent(
                                deadline -> judge(line.planned(), deadline, reached(line, children, chain), counting)));
        return counting.due == 0
                ? Optional.empty()
                : Optional.of(new DeadlineTally(counting.due, counting.missed, List.copyOf(counting.listed)));
    }

    /** By the version of the last job that was in force when the first had its occurrence. */
    private static Optional<Instant> deadline(List<JobAccount> chain, TallyLine line) {
        return last(chain).versions().stream()
                .filter(version -> version.after().isBefore(line.planned()))
                .reduce((older, newer) -> newer)
                .flatMap(version -> version.job().endBy())
                .map(deadline -> deadline.of(line.planned(), line.zone()));
    }

    /** Goes from the run of the occurrence to the one that followed it, and on. */
    private Reached reached(TallyLine first, List<Map<Long, JobAccount.Line>> children, List<JobAccount> chain) {
        Optional<JobAccount.Line> line = first.line();
        boolean leftOut = LEFT_OUT.contains(first.verdict())
                || first.verdict() == Verdict.NOT_YET
                        && paused.contains(chain.get(0).name());
        for (Map<Long, JobAccount.Line> byParent : children) {
            line = line.map(JobAccount.Line::run).map(byParent::get);
            leftOut |= line.filter(run -> Verdict.isLeftOut(run.outcome(), run.reason()))
                    .isPresent();
        }
        return new Reached(
                line,
                leftOut
                        || line.isEmpty()
                                && first.planned().isBefore(last(chain).keptFrom()));
    }

    private void judge(Instant planned, Instant deadline, Reached reached, Counting counting) {
        if (reached.leftOut) {
            return;
        }
        counting.due++;
        Optional<Instant> ended = reached.last
                .filter(JobAccount.Line::hasSucceeded)
                .flatMap(JobAccount.Line::ended)
                .filter(until::isAfter);
        if (ended.filter(end -> !end.isAfter(deadline)).isEmpty()) {
            counting.miss(new DeadlineTally.Missed(planned, deadline, reached.last.map(JobAccount.Line::run), ended));
        }
    }
}
