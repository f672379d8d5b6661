package dev.brume.http.internal.resource;

import dev.brume.BulkOrder;
import dev.brume.Orders;
import dev.brume.definitions.Views;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.Fields;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.BiFunction;
import java.util.function.BiPredicate;

/** Orders about many runs at once, which are chosen by what they have in common. */
final class ManyRuns {
    private static final int MOST = 10_000;
    private static final int USUAL = 1000;
    private static final Answer ANSWER = Answer.object(
            "The runs that are meant, or that the order came to, and those that are left as they are.",
            "runs",
            Map.of("type", "array", "items", Map.of("type", "string")),
            "left",
            Map.of(
                    "type",
                    "array",
                    "items",
                    Map.of(
                            "type",
                            "object",
                            "properties",
                            Map.of("run", Map.of("type", "string"), "why", Map.of("type", "string")))));

    private ManyRuns() {}

    static List<Operation> operations() {
        return List.of(
                Operation.of("POST", "/cancellations", "cancelRuns", "Cancels all live runs that a choice finds.")
                        .says("With dryRun it only says which are meant. Given again it finds those that still live.")
                        .sends(Map.of("job", "harbour/tide-tables", "state", "WAITING", "dryRun", true), members())
                        .answers(ANSWER)
                        .by(call -> order(call, (view, orders) -> view.outcome().isEmpty(), Orders::cancelAll)),
                Operation.of("POST", "/reruns", "rerunRuns", "Runs once more what many ended runs were owed to.")
                        .says(
                                "Those that were rerun before are left as they are, so that an order that was cut off can be given again."
                                        + " With dryRun it only says which are meant.")
                        .sends(Map.of("job", "harbour/tide-tables", "outcome", "FAILED", "dryRun", true), members())
                        .answers(ANSWER)
                        .by(call -> order(
                                call,
                                (view, orders) -> view.outcome().isPresent() && !orders.wasRerun(view.id()),
                                Orders::rerunAll)));
    }

    private static Member[] members() {
        List<Member> all = new ArrayList<>(RunChoice.members());
        all.add(Member.number("most", "Of many, the newest so many: 1 to " + MOST + ", " + USUAL + " unless given."));
        all.add(Member.flag("dryRun", "Whether it only says which are meant."));
        all.add(Member.BECAUSE);
        return all.toArray(Member[]::new);
    }

    private static Reply order(
            Call call, BiPredicate<RunView, Orders> fits, BiFunction<Orders, RunFilter, BulkOrder> order) {
        Fields body = call.body();
        int most = Shared.bounded(body, "most", 1, MOST).orElse(USUAL);
        boolean dryRun = body.flag("dryRun").orElse(false);
        RunFilter filter = RunChoice.of(call, body, most);
        if (!RunChoice.isGiven(body)) {
            body.noteHere("says nothing of which runs are meant, and all of them never are");
        }
        call.check();
        // What is left undone is found by the choice itself: each run is ordered about once, whoever asks again.
        Orders orders = call.plainOrders();
        if (dryRun) {
            return reply(
                    call.history().runs(filter).stream()
                            .filter(view -> fits.test(view, orders))
                            .map(RunView::id)
                            .toList(),
                    Map.of());
        }
        BulkOrder done = order.apply(orders, filter);
        return reply(done.done().stream().map(run -> run.id()).toList(), done.left());
    }

    private static Reply reply(List<Long> runs, Map<Long, String> left) {
        return Reply.json(Views.object(
                "runs",
                runs.stream().map(String::valueOf).toList(),
                "left",
                left.entrySet().stream()
                        .map(each -> Views.object("run", each.getKey(), "why", each.getValue()))
                        .toList()));
    }
}
