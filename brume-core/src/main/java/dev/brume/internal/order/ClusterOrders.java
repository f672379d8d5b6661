package dev.brume.internal.order;

import dev.brume.Allowance;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.history.Change;
import dev.brume.history.SessionRow;
import dev.brume.internal.duty.Instance;
import java.util.List;
import java.util.Optional;

/** Takes orders that concern instances as such. */
public final class ClusterOrders {
    private final Instance instance;

    /** Creates the step. */
    public ClusterOrders(Instance instance) {
        this.instance = instance;
    }

    private Change change(String kind, Edit edit, String text) {
        return Change.of(kind, edit.who(), edit.host(), text, edit.because());
    }

    /**
     * Asks the instances of a name to drain: from now on they lease nothing more; at their next renewal they tell their
     * runs, let them end, and leave.
     *
     * @return their sessions, as they were; empty if none takes work
     */
    public List<SessionRow> drain(String name, Edit edit) {
        return instance.transact(tx -> {
            List<SessionRow> open = tx.sessions().lockOpenOf(name);
            open.forEach(session -> tx.sessions().mark(session.id(), SessionRow.State.DRAINING));
            tx.addChanges(open.stream()
                    .map(session -> change("DRAIN_ORDERED", edit, "session " + session.id() + " of " + name))
                    .toList());
            return open;
        });
    }

    /**
     * Raises the epoch, since this database was restored from a copy: all fences from now on are higher than any that the
     * copy does not know of.
     *
     * @return the new epoch
     */
    public long restored(Edit edit) {
        return instance.transact(tx -> {
            long epoch = tx.sessions().raiseEpoch(tx.sessions().epoch());
            tx.addChanges(List.of(change("EPOCH_RAISED", edit, "to " + epoch + ": by order, after a restore")));
            return epoch;
        });
    }

    /**
     * Lets older definitions of a source be put in force again.
     *
     * @return how many jobs it has
     */
    public int accept(String source, Edit edit) {
        return instance.transact(tx -> {
            tx.lockDefinitions();
            boolean known = tx.revision(source).isPresent();
            int jobs = tx.accept(source);
            if (jobs == 0 && !known) {
                throw NotThereException.ofSource(source);
            }
            tx.addChanges(List.of(change("SOURCE_ACCEPTED", edit, source)));
            return jobs;
        });
    }

    /**
     * Sets what the jobs of a namespace may be and use, or lets them be anything.
     *
     * @return what they were allowed before, if they had an allowance
     */
    public Optional<Allowance> allow(String namespace, Optional<Allowance> allowance, Edit edit) {
        if (!JobName.isName(namespace)) {
            throw new IllegalArgumentException(
                    "namespace '" + namespace + "' is not a name (expected " + JobName.RULE + ")");
        }
        return instance.transact(tx -> {
            tx.lockDefinitions();
            Optional<Allowance> before = tx.orders().allowance(namespace);
            if (!before.equals(allowance)) {
                tx.orders().allow(namespace, allowance, edit.who());
                String text = allowance.map(Allowance::toString).orElse("anything");
                tx.addChanges(List.of(change("ALLOWED", edit, "namespace " + namespace + ": " + text)));
            }
            return before;
        });
    }
}
