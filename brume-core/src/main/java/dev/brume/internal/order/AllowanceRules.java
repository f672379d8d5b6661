package dev.brume.internal.order;

import dev.brume.Allowance;
import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NotAllowedException;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;

/** Holds definitions, and payloads that are ordered, against what their namespaces are allowed. Stateless. */
public final class AllowanceRules {
    private AllowanceRules() {}

    /** {@return those namespaces of a set that have an allowance} */
    public static Set<String> bounded(Transaction tx, DefinitionSet set) {
        return set.namespaces().stream()
                .filter(namespace -> tx.orders().allowance(namespace).isPresent())
                .collect(Collectors.toSet());
    }

    /**
     * Checks the limits and calendars of a set that are to be written.
     *
     * @param changed the set with those alone
     * @throws NotAllowedException if one is neither its own nor granted
     */
    public static void checkShared(Transaction tx, DefinitionSet changed) {
        for (String namespace : changed.namespaces()) {
            List<String> refusals = tx.orders()
                    .allowance(namespace)
                    .map(allowance -> allowance.refusals(changed))
                    .orElse(List.of());
            if (!refusals.isEmpty()) {
                throw new NotAllowedException("what " + changed.source() + " defines", namespace, refusals);
            }
        }
    }

    /**
     * Checks jobs that are to be written.
     *
     * @param added those among them that are new
     * @throws NotAllowedException at the first that is not allowed
     */
    public static void check(Transaction tx, Collection<Job> jobs, Collection<JobName> added) {
        Map<String, List<Job>> byNamespace = new TreeMap<>();
        jobs.forEach(job -> byNamespace
                .computeIfAbsent(job.name().namespace(), any -> new ArrayList<>())
                .add(job));
        byNamespace.forEach((namespace, some) -> tx.orders()
                .allowance(namespace)
                .ifPresent(allowance -> {
                    Instant now = tx.now();
                    for (Job job : some) {
                        List<String> refusals = allowance.refusals(job, now);
                        if (!refusals.isEmpty()) {
                            throw new NotAllowedException("job '" + job.name() + "'", namespace, refusals);
                        }
                    }
                    long more = added.stream()
                            .filter(name -> name.namespace().equals(namespace))
                            .count();
                    allowance.refusalOfJobs(tx.orders().jobsIn(namespace), more).ifPresent(refusal -> {
                        throw new NotAllowedException(
                                more == 1 ? "one more job" : more + " more jobs", namespace, List.of(refusal));
                    });
                }));
    }

    /**
     * Checks a payload that is ordered along with a run.
     *
     * @throws NotAllowedException if it is not allowed
     */
    public static void checkPayload(Transaction tx, JobName job, Optional<String> payload) {
        payload.filter(text -> text.length() > Allowance.LEAST_PAYLOAD)
                .flatMap(text -> tx.orders().allowance(job.namespace()).flatMap(each -> each.refusalOfPayload(text)))
                .ifPresent(refusal -> {
                    throw new NotAllowedException("this run of '" + job + "'", job.namespace(), List.of(refusal));
                });
    }
}
