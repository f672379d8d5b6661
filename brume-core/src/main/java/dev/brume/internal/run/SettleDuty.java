package dev.brume.internal.run;

import dev.brume.StoreException;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Turns;
import java.time.Duration;
import java.util.List;

/**
 * Settles what this instance ended, beside the reporting of further ends.
 *
 * <p>What it cannot settle it forgets: the settle rows stay, and the next round of any instance finds them.
 */
public final class SettleDuty implements Duty {
    private static final Duration IDLE = Duration.ofSeconds(1);
    private static final Duration AFTER_TROUBLE = Duration.ofMillis(200);

    private final Instance instance;
    private final Settling settling;
    private volatile boolean busy;

    /** Whether it could not settle what it had last; then it tries whatever is unsettled, rather than take idling for a turn. */
    private boolean failing;

    /** Creates the duty. */
    public SettleDuty(Instance instance) {
        this.instance = instance;
        this.settling = new Settling(instance);
    }

    @Override
    public Duration step() {
        busy = true;
        try {
            List<Long> ended = instance.takeEnded(instance.settings().batch());
            if (!ended.isEmpty() || failing) {
                failing = true;
                settling.settle(ended);
                failing = false;
            }
            instance.turned(Turns.Name.SETTLE);
            if (ended.isEmpty()) {
                return IDLE;
            }
            return instance.hasEnded() ? Duration.ZERO : IDLE;
        } catch (StoreException e) {
            instance.turns().failed(Turns.Name.SETTLE, e);
            instance.tellProblem("ends could not be settled yet, the next round will", e);
            return AFTER_TROUBLE;
        } finally {
            busy = false;
        }
    }

    /** {@return whether nothing is left to settle of what this instance ended} */
    public boolean idle() {
        return !instance.hasEnded() && !busy;
    }
}
