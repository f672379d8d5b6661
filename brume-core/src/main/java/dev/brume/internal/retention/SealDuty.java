package dev.brume.internal.retention;

import dev.brume.history.Members;
import dev.brume.history.Reach;
import dev.brume.history.Seal;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.SealSteps;
import dev.brume.spi.Transaction;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;

/**
 * Seals what is on record and not sealed yet, some thousand lines a seal.
 *
 * <p>Which lines a seal covers is decided under the lock of the head, by what is committed then: never by time, and never by
 * the highest number alone, since lines with a lower number may be committed later.
 */
public final class SealDuty {
    private final Instance instance;
    private final String who;

    /**
     * Creates the step.
     *
     * @param who has it done, for the seals
     */
    public SealDuty(Instance instance, String who) {
        this.instance = instance;
        this.who = who;
    }

    /** Seals everything; returns where sealing stands then. */
    public SealHead step() {
        SealHead before = instance.transact(tx -> tx.seals().lockHead());
        SealHead head = instance.transact(this::seal);
        while (head.number() > before.number()) {
            before = head;
            head = instance.transact(this::seal);
        }
        return head;
    }

    /** Seals everything if anything was ever sealed. */
    void stepIfBegun() {
        if (instance.transact(tx -> tx.seals().lockHead()).number() > 0) {
            step();
        }
    }

    private SealHead seal(Transaction tx) {
        SealSteps steps = tx.seals();
        SealHead head = steps.lockHead();
        Map<SealedKind, Members> covered = new EnumMap<>(SealedKind.class);
        for (SealedKind kind : SealedKind.values()) {
            Reach reach = head.reach(kind);
            List<SealedRow> rows = steps.rows(kind, reach.high(), reach.open(), kind.most());
            if (!rows.isEmpty()) {
                covered.put(kind, Members.of(rows));
            }
        }
        if (covered.isEmpty()) {
            return head;
        }
        Seal seal = Seal.of(head.number() + 1, head.digest(), tx.now(), who, covered);
        SealHead next = head.past(seal);
        steps.add(seal);
        steps.head(next);
        return next;
    }
}
