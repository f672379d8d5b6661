package dev.brume.insight.seal;

import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.Erasure;
import dev.brume.history.History;
import dev.brume.history.IdRanges;
import dev.brume.internal.order.EraseOrders;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The erasures that are on record, held against the change log.
 *
 * <p>The digests of what was erased need no belief: a seal over the line does not hold with others. Who had it erased does, so the change log must
 * have a line that names the same run, content and person. Stateless.
 */
final class Erasures {
    private static final int PAGE = 2000;

    private Erasures() {}

    /**
     * Checks all.
     *
     * @param known lines of the change log that were sealed when a head was kept; what they tell of is left out
     */
    static List<CheckedErasure> check(History history, IdRanges known) {
        List<CheckedErasure> checked = new ArrayList<>();
        List<Erasure> page = history.erasures(0, PAGE);
        Map<String, ChangeView> said = page.isEmpty() ? Map.of() : said(history);
        while (!page.isEmpty()) {
            for (Erasure erasure : page) {
                Optional<ChangeView> line =
                        Optional.ofNullable(said.get(EraseOrders.text(erasure.run(), erasure.content())));
                if (line.isEmpty() || !known.contains(line.get().id())) {
                    checked.add(new CheckedErasure(erasure, doubt(erasure, line)));
                }
            }
            page = history.erasures(page.get(page.size() - 1).run(), PAGE);
        }
        return checked;
    }

    private static Optional<String> doubt(Erasure erasure, Optional<ChangeView> line) {
        if (line.isEmpty()) {
            return Optional.of("the change log has no line about it");
        }
        return line.map(ChangeView::change)
                .filter(change ->
                        !change.who().equals(erasure.who()) || !change.because().equals(erasure.because()))
                .map(change -> "line " + line.get().id() + " of the change log says that " + change.who()
                        + " had it erased, because " + change.because());
    }

    private static Map<String, ChangeView> said(History history) {
        Map<String, ChangeView> said = new HashMap<>();
        ChangeFilter filter = ChangeFilter.newest(PAGE).withKind("ERASED");
        List<ChangeView> page = history.changes(filter);
        while (!page.isEmpty()) {
            page.forEach(line -> said.putIfAbsent(line.change().text(), line));
            page = history.changes(filter.before(page.get(page.size() - 1).id()));
        }
        return said;
    }
}
