package dev.brume.cli.desk;

import dev.brume.Allowance;
import dev.brume.Brume;
import dev.brume.BulkOrder;
import dev.brume.Cancelled;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.EditConflictException;
import dev.brume.Grant;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.NewToken;
import dev.brume.NotThereException;
import dev.brume.OneOff;
import dev.brume.OneOffAnswer;
import dev.brume.Orders;
import dev.brume.PauseChange;
import dev.brume.PauseOrder;
import dev.brume.RunHandle;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.Views;
import dev.brume.history.CauseRow;
import dev.brume.history.Erased;
import dev.brume.history.History;
import dev.brume.history.NoticeRow;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SealHead;
import dev.brume.history.SessionRow;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.insight.diff.JobDiff;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;

/**
 * A store that orders are given to.
 *
 * @param brume an instance that does nothing by itself
 * @param who gives the orders
 * @param orders of theirs
 */
public record StoreDesk(Brume brume, String who, Orders orders) implements Desk {
    @Override
    public History history() {
        return brume.history();
    }

    @Override
    public PauseChange pause(PauseOrder order) {
        return orders.pause(order);
    }

    @Override
    public PauseChange resume(Pause.Scope scope) {
        return orders.resume(scope);
    }

    @Override
    public int takeBackPauses(Pause.Scope scope) {
        return orders.takeBackPauses(scope);
    }

    @Override
    public Optional<Occurrence> skipNext(JobName job) {
        return orders.skipNext(job);
    }

    @Override
    public long runNow(JobName job, Optional<String> payload) {
        return payload.map(text -> orders.runNow(job, text))
                .orElseGet(() -> orders.runNow(job))
                .id();
    }

    @Override
    public List<Occurrence> missing(JobName job, Instant from, Instant until) {
        return orders.missing(job, from, until);
    }

    @Override
    public List<Long> backfill(JobName job, Instant from, Instant until) {
        return ids(orders.backfill(job, from, until));
    }

    private static List<Long> ids(List<RunHandle> runs) {
        return runs.stream().map(RunHandle::id).toList();
    }

    @Override
    public Cancelled cancel(long run) {
        return orders.cancel(run);
    }

    @Override
    public long rerun(long run) {
        return orders.rerun(run).id();
    }

    @Override
    public List<RunView> meant(Bulk what, RunFilter filter) {
        return history().runs(filter).stream()
                .filter(view -> what == Bulk.CANCEL
                        ? view.outcome().isEmpty()
                        : view.outcome().isPresent() && !orders.wasRerun(view.id()))
                .toList();
    }

    @Override
    public BulkAnswer orderAll(Bulk what, RunFilter filter) {
        BulkOrder done = what == Bulk.CANCEL ? orders.cancelAll(filter) : orders.rerunAll(filter);
        return new BulkAnswer(ids(done.done()), done.left());
    }

    @Override
    public OneOffReply add(OneOff oneOff, boolean orMove) {
        return reply(
                orMove ? orders.oneOffs().addOrMove(oneOff) : orders.oneOffs().add(oneOff));
    }

    @Override
    public OneOffReply move(JobName job, String key, Instant at) {
        return reply(orders.oneOffs().move(job, key, at));
    }

    @Override
    public OneOffReply drop(JobName job, String key) {
        return reply(orders.oneOffs().drop(job, key));
    }

    private static OneOffReply reply(OneOffAnswer answer) {
        return new OneOffReply(answer.kind(), answer.run().map(RunHandle::id));
    }

    @Override
    public void drop(JobName job) {
        if (!orders.drop(job)) {
            throw NotThereException.ofJob(job, "");
        }
    }

    @Override
    public int dropAll(String namespace) {
        return orders.dropAll(namespace);
    }

    @Override
    public Defined revert(JobName job, int version) {
        return orders.revert(job, version);
    }

    @Override
    public List<JobName> rename(JobName from, JobName to) {
        return orders.rename(from, to);
    }

    @Override
    public Set<UUID> drain(String instance) {
        return orders.drain(instance).stream().map(SessionRow::id).collect(Collectors.toSet());
    }

    @Override
    public List<Seen> erase(List<Long> runs) {
        return seen(orders.erase(runs.stream().mapToLong(Long::longValue).toArray()));
    }

    @Override
    public List<Seen> erase(JobName job, String key) {
        return seen(orders.erase(job, key));
    }

    private static List<Seen> seen(List<Erased> all) {
        return all.stream().map(Views::erased).map(Seen::of).toList();
    }

    @Override
    public SealHead seal() {
        return orders.seal();
    }

    @Override
    public Optional<Allowance> allow(String namespace, Optional<Allowance> allowance) {
        return allowance.map(given -> orders.allow(namespace, given)).orElseGet(() -> orders.allowAnything(namespace));
    }

    @Override
    public Keep keep(Keep bounds) {
        return orders.keep(bounds);
    }

    @Override
    public Optional<Duration> keepAtLeast(Optional<Duration> floor) {
        return floor.map(orders::keepAtLeast).orElseGet(orders::keepNoLeast);
    }

    @Override
    public long removeBeyondBounds() {
        return orders.removeBeyondBounds();
    }

    @Override
    public long sumUp(boolean anew) {
        return anew ? orders.sumUpAnew() : orders.sumUp();
    }

    @Override
    public CauseRow acknowledge(String cause, Optional<Duration> length) {
        return orders.acknowledge(cause, length);
    }

    @Override
    public boolean speak(String cause) {
        return orders.speak(cause);
    }

    @Override
    public NoticeRow sendAgain(String notice) {
        return orders.sendAgain(notice);
    }

    @Override
    public String sample(String channel) {
        return orders.sample(channel).id();
    }

    @Override
    public int accept(String source) {
        return orders.accept(source);
    }

    @Override
    public NewToken addToken(String name, Grant grant, Optional<Duration> length) {
        return orders.addToken(name, grant, length);
    }

    @Override
    public boolean revokeToken(String name) {
        return orders.revokeToken(name);
    }

    @Override
    public void define(DefinitionFile file, DefinitionDiff diff, boolean dropGone) {
        DefinitionSet set = file.definitions();
        List<Defined> defined = orders.define(set, diff.seen());
        if (defined.stream().anyMatch(each -> each.kind() == Defined.Kind.OUTDATED)) {
            throw new EditConflictException(
                    "a newer revision of " + set.source() + ", or a newer version of Brume, has come in between");
        }
        if (dropGone) {
            diff.of(JobDiff.Kind.GONE).forEach(job -> orders.drop(job.name(), diff.seen()));
        }
    }
}
