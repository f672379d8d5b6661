package dev.brume.http.internal.resource;

import dev.brume.definitions.Views;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.Fields;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Notices, their causes, and the channels that they go to. */
final class NoticeResources {
    private static final Param<NoticeState> STATE =
            Param.word("state", "Only notices whose delivery stands so.", NoticeState.values());
    private static final Param<String> CAUSE =
            Param.text("cause", "Only notices of this cause.", 400, "failing harbour/tide-print");
    private static final Param<String> CHANNEL =
            Param.text("channel", "Only notices to this channel, in full.", 201, "harbour/duty");
    private static final Param<Long> BELOW =
            new Param<>("below", "Only notices below this number.", Map.of("type", "integer"), 120, Param::id);
    private static final Param<Boolean> OVER = Param.flag("over", "Whether causes are listed too that are over.");
    private static final Member OF_CAUSE = Member.text("cause", "Its key.").needed();

    private NoticeResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/notices", "listNotices", "Lists what was told and is to be told, newest first.")
                        .everywhere()
                        .takes(STATE, CAUSE, CHANNEL, BELOW, Pages.LIMIT, Pages.CURSOR, Pages.FIELDS)
                        .answers(Answer.listOf("The notices.", "notice"))
                        .by(NoticeResources::notices),
                Operation.of(
                                "POST",
                                "/notices/{notice}/deliveries",
                                "sendNoticeAgain",
                                "Sends a notice again that was not delivered.")
                        .everywhere()
                        .at("notice", "4f9c1b7a02d84c0e9a3d5b6c7d8e9f00")
                        .sends(Map.of("because", "the pager works again"), Member.BECAUSE)
                        .answers(Answer.of("The notice as it stands then.", "notice"))
                        .by(call -> {
                            call.body();
                            call.check();
                            return Reply.json(Views.notice(call.orders().sendAgain(call.place("notice"))));
                        }),
                Operation.get("/notices/figures", "readNoticeFigures", "Says how telling fares.")
                        .everywhere()
                        .answers(Answer.of("The figures.", "noticeFigures"))
                        .by(call ->
                                Reply.json(Views.noticeFigures(call.history().noticeFigures()))),
                Operation.get("/causes", "listCauses", "Lists what is wrong now and was told, those seen last first.")
                        .everywhere()
                        .takes(OVER, Pages.LIMIT, Pages.FIELDS)
                        .answers(Answer.listOf("The causes.", "cause"))
                        .by(call -> Pages.all(
                                call,
                                call.history().causes(call.get(OVER).orElse(false), Pages.limit(call)),
                                Views::cause)),
                Operation.of(
                                "POST",
                                "/acknowledgements",
                                "acknowledgeCause",
                                "Silences a cause until it is over or looks different.")
                        .everywhere()
                        .sends(
                                Map.of(
                                        "cause",
                                        "failing harbour/tide-print",
                                        "for",
                                        "4h",
                                        "because",
                                        "the printer is being mended"),
                                OF_CAUSE,
                                Member.text(
                                        "for", "For how long at most, from 1m; as long as it goes on so unless given."),
                                Member.BECAUSE)
                        .answers(Answer.of("The cause as it stands then.", "cause"))
                        .by(NoticeResources::acknowledge),
                Operation.of(
                                "POST",
                                "/acknowledgements/withdrawals",
                                "speakOfCause",
                                "Takes back that a cause was acknowledged.")
                        .everywhere()
                        .sends(Map.of("cause", "failing harbour/tide-print"), OF_CAUSE, Member.BECAUSE)
                        .answers(Answer.object("Whether it had been.", "acknowledged", Map.of("type", "boolean")))
                        .by(NoticeResources::speak),
                Operation.get(
                                "/channels",
                                "listChannels",
                                "Lists channels and rules of notices, by the source that states them.")
                        .everywhere()
                        .takes(Pages.FIELDS)
                        .answers(Answer.listOf("What each source says.", "telling"))
                        .by(call -> Pages.all(call, call.history().tellings(), Views::telling)),
                Operation.of("POST", "/channels/samples", "tryChannel", "Sends a sample to a channel.")
                        .everywhere()
                        .sends(
                                Map.of("channel", "harbour/duty"),
                                Member.text("channel", "Its name in full.").needed(),
                                Member.BECAUSE)
                        .answers(Answer.of("The notice as it stands then.", "notice"))
                        .by(NoticeResources::sample));
    }

    private static Reply notices(Call call) {
        NoticeFilter filter = NoticeFilter.newest(Pages.limit(call) + 1)
                .in(call.get(STATE).map(Set::of).orElse(Set.of()));
        filter = call.get(CAUSE).isPresent() ? filter.of(call.get(CAUSE).get()) : filter;
        filter = call.get(CHANNEL).isPresent() ? filter.to(call.get(CHANNEL).get()) : filter;
        Optional<Long> before = Pages.cursor(call, Long::valueOf).or(() -> call.get(BELOW));
        filter = before.isPresent() ? filter.before(before.get()) : filter;
        return Pages.reply(call, call.history().notices(filter), Views::notice, row -> Long.toString(row.number()));
    }

    private static Reply acknowledge(Call call) {
        Fields body = call.body();
        Optional<String> cause = body.text("cause");
        Optional<Duration> length = body.duration("for");
        call.check();
        return Reply.json(Views.cause(call.orders().acknowledge(cause.orElseThrow(), length)));
    }

    private static Reply speak(Call call) {
        Optional<String> cause = call.body().text("cause");
        call.check();
        return Reply.json(Views.object("acknowledged", call.orders().speak(cause.orElseThrow())));
    }

    private static Reply sample(Call call) {
        Optional<String> channel = call.body().text("channel");
        call.check();
        String id = call.orders().sample(channel.orElseThrow()).id();
        NoticeRow row = call.history()
                .notices(NoticeFilter.newest(100).of("sample " + id))
                .get(0);
        return Reply.json(Views.notice(row));
    }
}
