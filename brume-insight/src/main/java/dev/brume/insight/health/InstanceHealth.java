package dev.brume.insight.health;

import dev.brume.Brume;
import dev.brume.StoreException;
import dev.brume.Vitals;
import dev.brume.insight.doctor.Finding;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;

/**
 * Whether an instance is fit, for whoever asks often, such as a probe: answered from what the instance knows by itself. What is wrong with the cluster
 * or its jobs is for a {@link dev.brume.insight.doctor.Checkup} to find, and no reason to restart an instance.
 *
 * @param well whether it is
 * @param findings what was found, in sentences; may tell of something even if all is well
 * @since 0.1.0
 */
public record InstanceHealth(boolean well, List<Finding> findings) {
    /** In leases; by then the instance has given up its lease, and others have its runs. */
    private static final int HANGS = 4;

    /** Creates it, copying the list. */
    public InstanceHealth {
        findings = List.copyOf(findings);
    }

    /**
     * {@return whether a process is of use to its instance} One that is not is to be restarted: a duty of it hangs, which no waiting mends. A database
     * that is away is no such reason, and neither is an instance that stops or was never started.
     */
    public static InstanceHealth live(Brume brume) {
        Vitals vitals = brume.vitals();
        List<Finding> found = new ArrayList<>();
        boolean mayHang =
                vitals.state() == Vitals.State.AT_WORK && vitals.away().isEmpty();
        if (mayHang) {
            Duration patience = vitals.lease().multipliedBy(HANGS);
            vitals.sinceTurn().forEach((duty, since) -> {
                if (since.compareTo(patience) > 0) {
                    found.add(problem(
                            vitals,
                            "duty",
                            "its duty '" + duty + "' has not finished a turn for " + Durations.about(since),
                            "restart the process, and keep a thread dump of it; others have taken its runs over"));
                }
            });
        }
        return new InstanceHealth(found.isEmpty(), found);
    }

    /**
     * {@return whether an instance takes work, or, if it was never started, whether it can define and order} What is not ready may become so by itself.
     */
    public static InstanceHealth ready(Brume brume) {
        Vitals vitals = brume.vitals();
        List<Finding> found = new ArrayList<>(live(brume).findings());
        switch (vitals.state()) {
            case IDLE -> askStore(brume, vitals, found);
            case AT_WORK -> atWork(vitals, found);
            case DRAINING ->
                found.add(new Finding(
                        Finding.Severity.WARNING,
                        "instance",
                        vitals.instance(),
                        "takes no more work; " + vitals.held() + " of its runs go on",
                        "it stops when they have ended"));
            case STOPPED ->
                found.add(new Finding(
                        Finding.Severity.WARNING,
                        "instance",
                        vitals.instance(),
                        "has stopped",
                        "start the process again, if it is wanted"));
        }
        boolean well = found.stream().noneMatch(finding -> finding.severity() != Finding.Severity.NOTE);
        return new InstanceHealth(well, found);
    }

    private static void atWork(Vitals vitals, List<Finding> found) {
        if (vitals.away().isPresent()) {
            found.add(away(
                    vitals,
                    "has not answered for " + Durations.about(vitals.away().get())));
        } else if (vitals.leaseLeft().isEmpty()) {
            found.add(new Finding(
                    Finding.Severity.WARNING,
                    "lease",
                    vitals.instance(),
                    "has no session yet, so it takes no work",
                    "wait for a second; if it stays so, its log tells why"));
        } else if (vitals.leaseLeft().get().isNegative()) {
            found.add(problem(
                    vitals,
                    "lease",
                    "has not renewed its lease in time, so others take its runs over",
                    "look at the database, and for long pauses of this process"));
        }
        if (vitals.lanes().values().stream().allMatch(lane -> lane.free() == 0)) {
            found.add(new Finding(
                    Finding.Severity.NOTE,
                    "workers",
                    vitals.instance(),
                    "all of its workers are busy",
                    "give the lane more workers, or start another instance, if runs wait"));
        }
    }

    private static void askStore(Brume brume, Vitals vitals, List<Finding> found) {
        try {
            brume.history().now();
        } catch (StoreException e) {
            found.add(away(vitals, "does not answer: " + e.getMessage()));
        }
    }

    private static Finding away(Vitals vitals, String text) {
        return new Finding(
                Finding.Severity.PROBLEM,
                "database",
                vitals.instance(),
                "its database " + text,
                "look at the database; the instance goes on by itself once it answers");
    }

    private static Finding problem(Vitals vitals, String topic, String text, String advice) {
        return new Finding(Finding.Severity.PROBLEM, topic, vitals.instance(), text, advice);
    }
}
