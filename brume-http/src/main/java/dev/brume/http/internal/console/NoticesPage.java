package dev.brume.http.internal.console;

import dev.brume.Role;
import dev.brume.history.CauseRow;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.history.TellingRow;
import dev.brume.http.internal.console.Table.Cell;
import dev.brume.http.internal.console.Table.Line;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Reply;
import dev.brume.notice.Channel;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.schedule.Durations;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.stream.Collectors;

/** What is wrong and was told, what arrived and what did not, and where it goes. */
final class NoticesPage {
    private static final Param<NoticeState> STATE =
            Param.word("state", "Only notices whose delivery stands so.", NoticeState.values());
    private static final Param<String> CHANNEL = Param.text("channel", "Only notices to this channel.", 201, "duty");
    private static final int CAUSES = 100;
    private static final int NOTICES = 100;

    private final boolean signsOut;

    NoticesPage(boolean signsOut) {
        this.signsOut = signsOut;
    }

    List<Operation> operations() {
        return List.of(Operation.get("/notices", "noticesPage", "What was told.")
                .everywhere()
                .takes(Frame.ZONE, STATE, CHANNEL)
                .by(this::page));
    }

    private Reply page(Call call) {
        Frame frame = Frame.of(call, "notices", "Notices", signsOut);
        NoticeFilter all =
                NoticeFilter.newest(NOTICES).in(call.get(STATE).map(Set::of).orElse(Set.of()));
        NoticeFilter filter = call.get(CHANNEL).map(all::to).orElse(all);
        List<CauseRow> causes = call.history().causes(/* over= */ false, CAUSES);
        List<NoticeRow> notices = call.history().notices(filter);
        List<TellingRow> tellings = call.history().tellings();
        ListPage page = new ListPage(frame)
                .text(summary(call.history().noticeFigures(), frame))
                .field(
                        "state",
                        "state",
                        call.get(STATE).map(Enum::name).orElse(""),
                        Arrays.stream(NoticeState.values()).map(Enum::name).toArray(String[]::new))
                .field("channel", "channel", call.get(CHANNEL).orElse(""))
                .table(Table.of(
                        "What is wrong now",
                        causes.stream().map(cause -> line(cause, frame)).toList(),
                        "nothing that was told goes on.",
                        "What",
                        "Since",
                        "Last seen",
                        "Times",
                        "Not told",
                        "Told to",
                        "Acknowledged"))
                .table(Table.of(
                        "Notices",
                        notices.stream().map(row -> line(row, frame)).toList(),
                        "there is none.",
                        "Decided",
                        "Delivery",
                        "Channel",
                        "Kind",
                        "What",
                        "Notice"))
                .table(Table.of(
                        "Channels",
                        tellings.stream()
                                .flatMap(
                                        row -> row.telling().channels().stream().map(channel -> line(channel, row)))
                                .toList(),
                        "none is defined, so nothing is told to anybody.",
                        "Channel",
                        "Way",
                        "Kept undelivered after",
                        "Defined by"))
                .table(Table.of(
                        "Rules",
                        tellings.stream()
                                .flatMap(row -> row.telling().rules().stream().map(rule -> line(rule, row)))
                                .toList(),
                        "none is defined.",
                        "Rule",
                        "Tells",
                        "Of",
                        "To",
                        "Defined by"));
        if (call.caller().mayEverywhere(Role.OPERATOR)) {
            orders(page, causes, notices);
        }
        return page.reply();
    }

    private static String summary(NoticeFigures figures, Frame frame) {
        String causes = figures.causes() == 0
                ? "Nothing that was told goes on"
                : figures.causes() + (figures.causes() == 1 ? " cause goes on" : " causes go on");
        String waiting = figures.waiting() == 0
                ? "nothing waits to be sent"
                : figures.waiting() + " waiting to be sent"
                        + figures.oldestWaiting()
                                .map(at -> ", the oldest decided " + frame.distance(at))
                                .orElse("");
        return causes + "; " + waiting + "; " + figures.undelivered() + " not delivered, " + figures.delivered()
                + " delivered within 30 days.";
    }

    private static Line line(CauseRow cause, Frame frame) {
        String last = cause.last().isEmpty() ? cause.key() : cause.last();
        Cell what = cause.jobName()
                .map(job -> Cell.sentence(last, frame.job(job)))
                .orElseGet(() -> Cell.sentence(last, ""));
        return Line.of(
                cause.silence().isEmpty(),
                what,
                Cell.time(frame.time(cause.openedAt())),
                Cell.clock(frame, cause.lastAt()),
                Cell.some(cause.count()),
                Cell.some(cause.told().stream().mapToLong(CauseRow.Told::folded).sum()),
                Cell.of(
                        cause.told().isEmpty()
                                ? "nobody yet"
                                : cause.told().stream()
                                        .map(CauseRow.Told::channel)
                                        .collect(Collectors.joining(", "))),
                Cell.of(cause.silence()
                        .map(silence -> "by " + silence.who()
                                + (silence.because().isEmpty() ? "" : ": " + silence.because())
                                + silence.until()
                                        .map(until -> ", until " + frame.time(until))
                                        .orElse(""))
                        .orElse("no")));
    }

    private static Line line(NoticeRow row, Frame frame) {
        String title = row.notice().title();
        return Line.of(
                row.state() == NoticeState.UNDELIVERED,
                Cell.time(frame.time(row.notice().at())),
                Cell.of(delivery(row, frame)),
                Cell.code(row.notice().channel()),
                Cell.code(row.notice().kind().word()),
                row.notice()
                        .job()
                        .map(job -> Cell.sentence(title, frame.job(job)))
                        .orElseGet(() -> Cell.sentence(title, "")),
                Cell.code(row.notice().id()));
    }

    private static String delivery(NoticeRow row, Frame frame) {
        String problem = row.problem().map(text -> ": " + text).orElse("");
        return switch (row.state()) {
            case WAITING ->
                row.attempts() == 0
                        ? "waits" + (row.nextAt().isAfter(frame.now()) ? " until " + frame.time(row.nextAt()) : "")
                        : "tried " + row.attempts() + " times, again " + frame.distance(row.nextAt()) + problem;
            case DELIVERED ->
                "arrived" + row.problem().map(text -> ", but " + text).orElse("");
            case UNDELIVERED -> "not delivered" + problem;
        };
    }

    private static Line line(Channel channel, TellingRow row) {
        return Line.of(
                Cell.code(channel.name()),
                Cell.of(channel.way().word()),
                Cell.of(Durations.format(channel.giveUpAfter())),
                Cell.of(row.source()));
    }

    private static Line line(NoticeRule rule, TellingRow row) {
        return Line.of(
                Cell.code(rule.name()),
                Cell.of(rule.all().stream().map(NoticeKind::word).collect(Collectors.joining(", "))),
                Cell.of(
                        rule.of().isAll()
                                ? rule.isOfCluster() ? "everything" : "all of " + rule.namespace()
                                : rule.of().toString().toLowerCase(Locale.ROOT)),
                Cell.code(String.join(", ", rule.to())),
                Cell.of(row.source()));
    }

    private static void orders(ListPage page, List<CauseRow> causes, List<NoticeRow> notices) {
        page.order(Order.post(
                        "Acknowledge a cause",
                        "Nothing more is told of it until it is over or looks different.",
                        "/acknowledgements")
                .with(
                        new Order.Field(
                                "cause",
                                "Cause",
                                causes.stream().findFirst().map(CauseRow::key).orElse(""),
                                Order.Kind.TEXT),
                        new Order.Field("for", "For so long at most, such as 4h", "", Order.Kind.TEXT)));
        page.order(Order.post(
                        "Send a notice again",
                        "One that was not delivered is sent again, under its id.",
                        "/notices/{notice}/deliveries")
                .with(new Order.Field(
                        "notice",
                        "Notice",
                        notices.stream()
                                .filter(row -> row.state() == NoticeState.UNDELIVERED)
                                .findFirst()
                                .map(row -> row.notice().id())
                                .orElse(""),
                        Order.Kind.PLACE)));
        page.order(Order.post("Try a channel", "A sample is sent to it.", "/channels/samples")
                .with(new Order.Field("channel", "Channel", "", Order.Kind.TEXT)));
    }
}
