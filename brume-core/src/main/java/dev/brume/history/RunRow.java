package dev.brume.history;

import dev.brume.Attempt;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.RunState;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/**
 * A live run.
 *
 * @param id for people and logs
 * @param owed what it is owed to
 * @param version of the definition it runs under
 * @param state where it stands
 * @param lane whose workers may run it
 * @param priority 0 to 9, 9 first
 * @param needs what an instance must have to be given it
 * @param readyAt from when it may be claimed, which is also the claim order
 * @param lease who holds it
 * @param attempts the attempts that ended, oldest first
 * @param attempt the number of the current or last attempt, 0 before the first
 * @param payload what it is given
 * @param gates the shared gates whose places it takes, beside its job's, unless it waits
 * @param startBy by when it must have begun, exclusive; empty once it has, or if it may begin at any time
 * @param shownPayload what the record says in place of the payload, if that holds secrets
 * @param traces the W3C trace contexts ({@code traceparent}) of what ordered it and of its planning, with a space between them
 * @since 0.1.0
 */
public record RunRow(
        long id,
        Owed owed,
        int version,
        RunState state,
        String lane,
        int priority,
        Needs needs,
        Instant readyAt,
        Optional<Lease> lease,
        List<Attempt> attempts,
        int attempt,
        Optional<String> payload,
        List<GateKey> gates,
        Optional<Instant> startBy,
        Optional<String> shownPayload,
        Optional<String> traces) {

    /** {@return a run of the main lane that waits for whoever claims it first, and needs nothing} */
    public static RunRow planned(long id, Owed owed) {
        return new RunRow(
                id,
                owed,
                1,
                RunState.PLANNED,
                Job.MAIN_LANE,
                Job.USUAL_PRIORITY,
                Needs.NOTHING,
                owed.planned(),
                Optional.empty(),
                List.of(),
                0,
                Optional.empty(),
                List.of(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty());
    }

    /**
     * The occurrence or order that a run is owed to; job, planned and slot are unique.
     *
     * @param job the job's id
     * @param planned the occurrence
     * @param slot tells apart runs of one occurrence; empty for the usual one
     * @param origin what kind of debt it is
     * @param nominal the local time the schedule named
     * @param zone the schedule's zone
     * @param note what a policy did to the occurrence
     * @param parent the run that it follows, if it is a follow-up
     * @param orderedBy who ordered it, if a person or a program did
     */
    public record Owed(
            long job,
            Instant planned,
            String slot,
            Origin origin,
            LocalDateTime nominal,
            String zone,
            Optional<String> note,
            Optional<Long> parent,
            Optional<String> orderedBy) {
        /** The note of a run that waited for a place before it could begin, however it ended. */
        public static final String WAITED = "WAITED";

        private static final String ONE_OFF = "#";

        /** {@return the usual debt: an occurrence of a schedule} */
        public static Owed scheduled(long job, Instant planned, ZoneId zone) {
            return new Owed(
                    job,
                    planned,
                    "",
                    Origin.SCHEDULE,
                    LocalDateTime.ofInstant(planned, zone),
                    zone.getId(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty());
        }

        /** {@return the slot of a one-off: each run of a key has its own} */
        public static String slotOf(long run, String oneOffKey) {
            return ONE_OFF + run + ":" + oneOffKey;
        }

        /** {@return the key of the one-off it is owed to, if it is one} */
        public Optional<String> oneOffKey() {
            return oneOffKeyOf(slot);
        }

        /** {@return the key of the one-off that a slot is of, if it is of one} */
        public static Optional<String> oneOffKeyOf(String slot) {
            return slot.startsWith(ONE_OFF) ? Optional.of(slot.substring(slot.indexOf(':') + 1)) : Optional.empty();
        }
    }

    /**
     * The lease under which an instance holds a run.
     *
     * @param session whose life
     * @param fence of this lease
     * @param since when it began
     */
    public record Lease(UUID session, long fence, Instant since) {}

    /** {@return what the record says that it was given} */
    public Optional<String> payloadOnRecord() {
        return shownPayload.or(() -> payload);
    }

    /** {@return the run where it stands now, under another lease or none} */
    public RunRow moved(RunState to, Instant ready, Optional<Lease> holder, List<Attempt> ended, int number) {
        Optional<Instant> by = holder.isPresent() ? Optional.empty() : startBy;
        return new RunRow(
                id,
                owed,
                version,
                to,
                lane,
                priority,
                needs,
                ready,
                holder,
                ended,
                number,
                payload,
                gates,
                by,
                shownPayload,
                traces);
    }

    /** {@return the run as one that needs more or less} */
    public RunRow needing(Needs what, List<GateKey> places) {
        return new RunRow(
                id,
                owed,
                version,
                state,
                lane,
                priority,
                what,
                readyAt,
                lease,
                attempts,
                attempt,
                payload,
                places,
                startBy,
                shownPayload,
                traces);
    }

    /** {@return the key of the lease} */
    public LeaseKey leaseKey() {
        Lease held = lease.orElseThrow();
        return new LeaseKey(id, held.session(), held.fence());
    }

    /** {@return the key of the definition it runs under} */
    public VersionKey versionKey() {
        return new VersionKey(owed.job(), version);
    }
}
