package dev.brume.examples;

import dev.brume.Allowance;
import dev.brume.Brume;
import dev.brume.Defined;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.NotAllowedException;
import dev.brume.Run;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.schedule.ScheduleSyntaxException;
import dev.brume.spi.Store;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiConsumer;

/**
 * A service whose users say themselves when a notice is posted on their board: each tenant is a namespace with an allowance, and a notice is a job without a
 * name of its own.
 */
public final class TenantNotices implements AutoCloseable {
    private static final String POST = "post-notice";
    private static final String LANE = "notices";
    private static final int PAGE = 30;

    private final Brume brume;
    private final BiConsumer<String, String> board;

    /** The tenant whose notice a thread is posting. */
    private final ThreadLocal<String> tenant = new ThreadLocal<>();

    /**
     * A notice as its owners see it.
     *
     * @param id by which it is changed and dropped
     * @param text that is posted
     * @param when in words
     * @param next when it is posted next; empty while the tenant is suspended
     */
    public record Notice(String id, String text, String when, Optional<Instant> next) {}

    /**
     * What a user is answered.
     *
     * @param id of the notice; empty if it was refused
     * @param refusals a sentence each, to be shown beside the form
     */
    public record Answer(Optional<String> id, List<String> refusals) {}

    /**
     * Opens the service.
     *
     * @param board is given the tenant and the text of each notice at its time
     */
    public TenantNotices(Store store, BiConsumer<String, String> board) {
        this.board = board;
        brume = Brume.on(store).lane(LANE, 4).build();
        brume.handler(POST, this::post);
        brume.around("tenant", JobScope.ALL, (run, attempt) -> {
            tenant.set(run.job().namespace());
            try {
                attempt.proceed();
            } finally {
                tenant.remove();
            }
        });
    }

    /** Begins to post. */
    public void start() {
        brume.start();
    }

    /** Lets a tenant have so many notices, none of which is posted more often than every five minutes. */
    public void admit(String name, int notices) {
        Allowance bounds = Allowance.OWN
                .mostJobs(notices)
                .shortestInterval(Duration.ofMinutes(5))
                .kinds(Set.of(Allowance.Kind.HANDLER))
                .handlers(Set.of(POST))
                .lanes(Set.of(LANE))
                .longestPayload(1_000);
        brume.orders("service", "tenant admitted").allow(name, bounds);
    }

    /** Has a notice posted by a cron expression, in a zone; what is wrong with them is for the user to read. */
    public Answer add(String owner, String text, String cron, String zone) {
        try {
            Job notice = Job.named(brume.newName(owner))
                    .handler(POST)
                    .lane(LANE)
                    .payload(text)
                    .cron(cron, zone)
                    .build();
            Defined defined = brume.defineNew(notice);
            return new Answer(Optional.of(defined.name().name()), List.of());
        } catch (ScheduleSyntaxException e) {
            return new Answer(
                    Optional.empty(),
                    e.problems().stream()
                            .map(problem -> problem.within(e.text()))
                            .toList());
        } catch (NotAllowedException e) {
            return new Answer(Optional.empty(), e.refusals());
        } catch (IllegalArgumentException e) {
            return new Answer(Optional.empty(), List.of(e.getMessage()));
        }
    }

    /** Lists the notices of a tenant, a page at a time. */
    public List<Notice> page(String owner, Optional<String> after) {
        JobFilter all = JobFilter.first(PAGE).within(owner);
        JobFilter page = after.map(id -> all.after(new JobName(owner, id))).orElse(all);
        return brume.history().jobs(page).stream().map(TenantNotices::notice).toList();
    }

    private static Notice notice(JobView view) {
        return new Notice(
                view.name().name(),
                view.job().payload().orElse(""),
                view.job().scheduleInWords(),
                view.row().nextOccurrence());
    }

    /** Drops a notice of a tenant's own; false if it has none of that id. */
    public boolean drop(String owner, String id) {
        return JobName.isName(id) && brume.orders(owner, "").drop(new JobName(owner, id));
    }

    /** Posts nothing of a tenant until it is resumed, and what was owed meanwhile once at most. */
    public void suspend(String owner, String because) {
        brume.orders("service", because).pause(Pause.Scope.namespace(owner));
    }

    /** Goes on posting. */
    public void resume(String owner) {
        brume.orders("service", "").resume(Pause.Scope.namespace(owner));
    }

    /** Removes a tenant: what it had is dropped, and what ran stays on record. */
    public int remove(String owner) {
        return brume.orders("service", "tenant removed").dropAll(owner);
    }

    private void post(Run run) {
        board.accept(tenant.get(), run.payload().orElse(""));
    }

    @Override
    public void close() {
        brume.close();
    }
}
