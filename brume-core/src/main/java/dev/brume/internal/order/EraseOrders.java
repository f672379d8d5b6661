package dev.brume.internal.order;

import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.history.Content;
import dev.brume.history.Erased;
import dev.brume.history.Erasure;
import dev.brume.history.OneOffView;
import dev.brume.history.RunView;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.RetentionSteps;
import dev.brume.spi.Transaction;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/** Takes the orders that remove what the record holds of persons; each is in the change log, with who and why, in its transaction. */
public final class EraseOrders {
    private final Instance instance;
    private final Orderer orderer;

    /**
     * Creates the step.
     */
    public EraseOrders(Instance instance, Orderer orderer) {
        this.instance = instance;
        this.orderer = orderer;
    }

    /** Erases the content of runs. */
    public List<Erased> erase(long... runs) {
        checkReason();
        Map<Long, JobName> jobs = new LinkedHashMap<>();
        for (long run : runs) {
            jobs.put(run, ended(run));
        }
        return instance.transact(tx -> {
            tx.seals().lockHead();
            List<Erased> erased = new ArrayList<>();
            jobs.forEach((run, job) -> erased.add(erase(tx, run, job)));
            return erased;
        });
    }

    /** Erases the content of all runs of a one-off's key, and of their reruns. */
    public List<Erased> erase(JobName job, String key) {
        checkReason();
        OneOffView oneOff =
                instance.store().history().oneOff(job, key).orElseThrow(() -> NotThereException.ofOneOff(job, key));
        if (!oneOff.made()) {
            throw new IllegalArgumentException("one-off '" + key + "' of " + job + " still waits for " + oneOff.dueAt()
                    + "; drop it (brume one-off drop), which removes its payload");
        }
        ended(oneOff.run());
        return instance.transact(tx -> {
            tx.seals().lockHead();
            Set<Long> runs = new TreeSet<>(List.of(oneOff.run()));
            runs.addAll(tx.retention().runsOf(job, key));
            List.copyOf(runs).forEach(run -> runs.addAll(tx.retention().rerunsOf(run)));
            return runs.stream().map(run -> erase(tx, run, job)).toList();
        });
    }

    private void checkReason() {
        if (orderer.because().isBlank()) {
            throw new IllegalArgumentException(
                    "what is erased cannot be had again, so the change log is to say why; give a reason");
        }
    }

    private JobName ended(long run) {
        RunView view = instance.store().history().run(run).orElseThrow(() -> NotThereException.ofRun(run, ""));
        if (view.outcome().isEmpty()) {
            throw new IllegalArgumentException("run " + run + " has not ended yet; it is "
                    + view.state().map(Enum::name).orElse("live") + "; cancel it, or wait for its end");
        }
        return view.job();
    }

    private Erased erase(Transaction tx, long run, JobName job) {
        RetentionSteps steps = tx.retention();
        Content content = steps.content(run)
                .orElseThrow(() -> new IllegalArgumentException("run " + run
                        + " has no line in the ledger: it has not ended yet, or retention has removed it"));
        Optional<Erasure> earlier = steps.erasure(run);
        if (!content.isEmpty()) {
            if (earlier.isPresent()) {
                throw new IllegalArgumentException("the content of run " + run + " was erased at "
                        + earlier.get().at() + ", and there is " + content.words()
                        + " again: somebody has written to the tables; see brume seal verify");
            }
            steps.erase(new Erasure(run, tx.now(), orderer.who(), orderer.because(), content));
            tx.addChanges(List.of(orderer.change("ERASED", Optional.of(job), text(run, content))));
        }
        List<Long> reruns = steps.rerunsOf(run).stream()
                .filter(other ->
                        steps.content(other).filter(there -> !there.isEmpty()).isPresent())
                .toList();
        return new Erased(run, job, content, earlier, reruns);
    }

    /** {@return the text by which the change log says that the content of a run was erased} */
    public static String text(long run, Content content) {
        return "run " + run + ": " + content.words();
    }
}
