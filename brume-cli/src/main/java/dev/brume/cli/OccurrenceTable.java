package dev.brume.cli;

import dev.brume.definitions.Subject;
import dev.brume.schedule.Occurrence;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;

/** A table of occurrences: in the job's zone, in the viewer's, in UTC, and what policies did to them. */
final class OccurrenceTable {
    private final LookOptions look;
    private final ZoneId viewer;

    OccurrenceTable(LookOptions look) {
        this.look = look;
        this.viewer = look.viewerZone();
    }

    /** An occurrence and whose it is. */
    record Line(Subject subject, Occurrence occurrence) {}

    /** {@return the lines of the table; all local times are of one zone where all subjects share it} */
    List<String> lines(List<Line> lines, boolean named) {
        List<ZoneId> zones =
                lines.stream().map(line -> line.occurrence.zone()).distinct().toList();
        boolean oneZone = zones.size() == 1;
        boolean inUtc = oneZone && Times.isUtc(zones.get(0));
        boolean viewed = !Times.isUtc(viewer) && !(oneZone && zones.get(0).equals(viewer));
        Table table = new Table(look);
        if (named) {
            table.column("JOB").fold();
        }
        table.column(oneZone ? Times.name(zones.get(0)) : "ITS ZONE");
        if (viewed) {
            table.column(viewer.getId() + " (you)");
        }
        if (!inUtc) {
            table.column("UTC");
        }
        for (Line line : lines) {
            List<String> cells = new ArrayList<>();
            if (named) {
                cells.add(line.subject.name());
            }
            Occurrence occurrence = line.occurrence;
            cells.add(
                    oneZone
                            ? Times.local(occurrence.instant(), occurrence.zone())
                            : Times.withOffset(occurrence.instant(), occurrence.zone()));
            if (viewed) {
                cells.add(Times.local(occurrence.instant(), viewer));
            }
            if (!inUtc) {
                cells.add(Times.cut(occurrence.instant()).toString());
            }
            table.row(cells.toArray());
            if (!occurrence.notes().isEmpty()) {
                table.belowInFull(NoteText.of(occurrence));
            }
        }
        return table.lines();
    }
}
