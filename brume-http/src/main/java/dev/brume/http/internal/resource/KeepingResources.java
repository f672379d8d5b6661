package dev.brume.http.internal.resource;

import dev.brume.Keep;
import dev.brume.Role;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.Views;
import dev.brume.history.Timeframe;
import dev.brume.http.internal.resource.Shared.Period;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.tally.RollUpCheck;
import dev.brume.internal.document.Fields;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** How long the ledger is kept, and what it is summed up to. */
final class KeepingResources {
    private static final Duration A_DAY = Duration.ofDays(1);
    private static final Answer LINES = Answer.object("How many lines.", "lines", Map.of("type", "integer"));

    private KeepingResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/retention", "readRetention", "Says how long the ledger is kept.")
                        .everywhere()
                        .answers(Answer.of("The bounds.", "keep"))
                        .by(call -> Reply.json(Views.retention(call.history().retention()))),
                Operation.of("PUT", "/retention", "setRetention", "Sets how long the ledger is kept.")
                        .says(
                                "Of what bounds it, what is left out bounds it no more. The floor stays as it is unless it is given.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .sends(
                                Map.of("for", "400d", "because", "the auditors ask for a year"),
                                Member.text(
                                        "for", "Lines are kept at least so long, 1h or more; for ever unless given."),
                                Member.number("runs", "At least so many of the newest are kept; all unless given."),
                                Member.text(
                                        "floor",
                                        "The shortest time that any job's own bounds may state, 1h or more; none takes it away."),
                                Member.BECAUSE)
                        .answers(Answer.of("The bounds.", "keep"))
                        .by(KeepingResources::keep),
                Operation.of(
                                "POST",
                                "/removals",
                                "removeBeyondBounds",
                                "Removes ledger lines beyond the bounds now, rather than when an instance next does.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .sends(Map.of("because", "the disk is full"), Member.BECAUSE)
                        .answers(LINES)
                        .by(call -> {
                            call.body();
                            call.check();
                            return Reply.json(
                                    Views.object("lines", call.orders().removeBeyondBounds()));
                        }),
                Operation.of(
                                "POST",
                                "/roll-ups",
                                "rollUp",
                                "Sums the ledger up now, rather than when an instance next does.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .sends(
                                Map.of(),
                                Member.flag("anew", "Whether all of it is summed up again, from its first line."),
                                Member.BECAUSE)
                        .answers(LINES)
                        .by(KeepingResources::rollUp),
                Operation.get(
                                "/roll-ups/verification",
                                "verifyRollUps",
                                "Reads each line of a period, and says of which hours and days the sums are not those of the lines.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .takes(Shared.FROM, Shared.UNTIL)
                        .answers(Answer.of("What was found.", "roll-up-check"))
                        .by(KeepingResources::check));
    }

    private static Reply keep(Call call) {
        Fields body = call.body();
        Optional<Duration> age = body.duration("for");
        Optional<Integer> runs = body.integer("runs");
        boolean noFloor = body.text("floor").filter("none"::equals).isPresent();
        Optional<Duration> floor = noFloor ? Optional.empty() : body.duration("floor");
        Optional<Keep> keep = body.readHere(() -> {
            Keep bound = age.map(Keep::upTo).orElse(Keep.ALL);
            return runs.map(bound::andNewest).orElse(bound);
        });
        call.check();
        boolean floorAlone = body.has("floor") && age.isEmpty() && runs.isEmpty();
        if (body.has("floor")) {
            floor.map(call.orders()::keepAtLeast).orElseGet(call.orders()::keepNoLeast);
        }
        if (!floorAlone) {
            call.orders().keep(keep.orElseThrow());
        }
        return Reply.json(Views.retention(call.history().retention()));
    }

    private static Reply rollUp(Call call) {
        Fields body = call.body();
        boolean anew = body.flag("anew").orElse(false);
        call.check();
        return Reply.json(Views.object(
                "lines", anew ? call.orders().sumUpAnew() : call.orders().sumUp()));
    }

    private static Reply check(Call call) {
        Period period = Period.of(call, A_DAY);
        Timeframe frame = Timeframe.between(period.from(), period.until());
        return Reply.json(InsightViews.sumsChecked(
                period.from(), period.until(), RollUpCheck.differences(call.history(), frame)));
    }
}
