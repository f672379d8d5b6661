package dev.brume.http.internal.resource;

import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.RunFilter;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Param;
import dev.brume.internal.document.Fields;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Which runs are meant: by parameters of an address, or by members of a body that have the same names. Stateless. */
final class RunChoice {
    private static final Param<Outcome> OUTCOME = Param.word("outcome", "Only runs that ended so.", Outcome.values());
    private static final Param<RunState> STATE =
            Param.word("state", "Only live runs that stand so.", RunState.values());
    private static final Param<Origin> ORIGIN =
            Param.word("origin", "Only runs that are owed to this.", Origin.values());
    static final Param<String> REASON = Param.text("reason", "Only those with this reason on record.", 100, "BUSY");
    private static final Param<String> INSTANCE =
            Param.text("instance", "Only runs whose last attempt this instance carried out.", 200, "quay-1");
    private static final Param<String> ERROR =
            Param.text("error", "Only ended runs whose last error has this in it.", 200, "no ink");
    private static final Param<String> KEY =
            Param.text("key", "Only runs of one-offs that were ordered under this key.", 200, "bridge-2027-05-14");
    private static final List<Param<?>> ALL = List.of(
            Shared.NAMESPACE,
            Shared.JOB,
            Shared.TAG,
            OUTCOME,
            STATE,
            Shared.FROM,
            Shared.UNTIL,
            REASON,
            INSTANCE,
            ORIGIN,
            ERROR,
            KEY);

    private RunChoice() {}

    /** Where what is asked for is read from. */
    private interface Asked {
        <T> Optional<T> get(Param<T> param);
    }

    /** {@return the parameters that choose runs} */
    static Param<?>[] params() {
        return ALL.toArray(Param[]::new);
    }

    /** {@return the members that choose runs} */
    static List<Member> members() {
        return ALL.stream().map(RunChoice::member).toList();
    }

    private static Member member(Param<?> param) {
        Map<String, Object> schema = new LinkedHashMap<>(param.schema());
        schema.put("description", param.says());
        return new Member(param.name(), false, schema);
    }

    /** {@return the runs that the address asks for, so many at most, of those that the caller may be answered about} */
    static RunFilter of(Call call, int limit) {
        return filter(call, call::get, limit);
    }

    /** {@return the runs that a body asks for, so many at most, of those that the caller may give orders about} */
    static RunFilter of(Call call, Fields body, int limit) {
        return filter(
                call,
                new Asked() {
                    @Override
                    public <T> Optional<T> get(Param<T> param) {
                        return body.text(param.name())
                                .flatMap(text -> body.read(
                                        param.name(), () -> param.reading().apply(text)));
                    }
                },
                limit);
    }

    /** {@return whether a body says anything of which runs are meant} */
    static boolean isGiven(Fields body) {
        return ALL.stream().anyMatch(param -> body.has(param.name()));
    }

    private static RunFilter filter(Call call, Asked asked, int limit) {
        RunFilter filter = RunFilter.newest(limit)
                .within(call.namespaces(asked.get(Shared.NAMESPACE).map(Set::of).orElse(Set.of())));
        filter = asked.get(Shared.JOB).map(filter::of).orElse(filter);
        filter = asked.get(Shared.TAG).map(filter::withTag).orElse(filter);
        filter = asked.get(OUTCOME).map(filter::withOutcome).orElse(filter);
        filter = asked.get(STATE).map(filter::withState).orElse(filter);
        filter = asked.get(Shared.FROM).map(filter::from).orElse(filter);
        filter = asked.get(Shared.UNTIL).map(filter::until).orElse(filter);
        filter = asked.get(REASON).map(filter::withReason).orElse(filter);
        filter = asked.get(INSTANCE).map(filter::on).orElse(filter);
        filter = asked.get(ORIGIN).map(filter::withOrigin).orElse(filter);
        filter = asked.get(ERROR).map(filter::withError).orElse(filter);
        return asked.get(KEY).map(filter::withKey).orElse(filter);
    }
}
