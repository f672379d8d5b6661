package dev.brume.internal.session;

import dev.brume.history.Change;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Settings;
import dev.brume.spi.Transaction;
import java.util.List;

/** Notices that the database is an older copy of itself, and begins a new epoch then. Stateless. */
public final class Epochs {
    private Epochs() {}

    /** {@return the epoch of the history that the server is in, raised if that is another than was noted} */
    public static long current(Instance instance, Transaction tx) {
        long epoch = ofTheNewest(instance, tx);
        String timeline = tx.sessions().timeline();
        String noted = tx.sessions().notedTimeline();
        if (noted.equals(timeline)) {
            return epoch;
        }
        tx.sessions().noteTimeline(timeline);
        if (noted.isEmpty()) {
            return epoch;
        }
        long raised = tx.sessions().raiseEpoch(epoch);
        say(instance, tx, "to " + raised + ": the server was in history " + noted + " and now is in " + timeline);
        return raised;
    }

    /** A database that has not heard of the highest epoch noted beside it is an older copy. */
    private static long ofTheNewest(Instance instance, Transaction tx) {
        long epoch = tx.sessions().epoch();
        long highest = tx.sessions().highestEpoch();
        if (highest <= epoch) {
            return epoch;
        }
        long raised = tx.sessions().raiseEpoch(highest);
        say(
                instance,
                tx,
                "to " + raised + ": the database knows of epoch " + epoch + ", and epoch " + highest + " had begun");
        return raised;
    }

    private static void say(Instance instance, Transaction tx, String text) {
        Settings settings = instance.settings();
        tx.addChanges(List.of(Change.of("EPOCH_RAISED", settings.instance(), settings.host(), text)));
    }
}
