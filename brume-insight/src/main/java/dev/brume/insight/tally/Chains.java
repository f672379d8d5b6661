package dev.brume.insight.tally;

import dev.brume.FollowUp;
import dev.brume.JobName;
import dev.brume.history.JobView;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedList;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * Which jobs run one after the other, as follow-ups that do not ask for a failure.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Chains {
    private static final int LONGEST = 32;

    private final Map<JobName, JobName> before;
    private final Set<JobName> scheduled;

    private Chains(Map<JobName, JobName> before, Set<JobName> scheduled) {
        this.before = before;
        this.scheduled = scheduled;
    }

    /** {@return the chains of some jobs; one that follows several is taken to follow the first of them by name} */
    public static Chains of(Collection<JobView> jobs) {
        Map<JobName, JobName> before = new HashMap<>();
        Set<JobName> scheduled = new HashSet<>();
        jobs.stream().sorted(Comparator.comparing(JobView::name)).forEach(view -> {
            if (!view.job().schedules().isEmpty()) {
                scheduled.add(view.name());
            }
            view.job().followUps().stream()
                    .filter(followUp -> followUp.on() != FollowUp.On.FAILURE)
                    .forEach(followUp -> before.putIfAbsent(followUp.job(), view.name()));
        });
        return new Chains(before, scheduled);
    }

    /** {@return the jobs that run one after the other up to one, which comes last; the first has a schedule, if one of them has} */
    public List<JobName> upTo(JobName last) {
        LinkedList<JobName> chain = new LinkedList<>(List.of(last));
        while (!scheduled.contains(chain.getFirst()) && chain.size() < LONGEST) {
            JobName previous = before.get(chain.getFirst());
            if (previous == null || chain.contains(previous)) {
                break;
            }
            chain.addFirst(previous);
        }
        return List.copyOf(chain);
    }
}
