package dev.brume.cli;

import dev.brume.schedule.Occurrence;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;

/** A table of occurrences: in the job's zone, in the viewer's, in UTC, and what policies did to them. */
final class OccurrenceTable {
    private final Palette palette;
    private final ZoneId viewer;

    OccurrenceTable(Palette palette, ZoneId viewer) {
        this.palette = palette;
        this.viewer = viewer;
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
        boolean noted = lines.stream().anyMatch(line -> !line.occurrence.notes().isEmpty());
        Table table = new Table(palette);
        if (named) {
            table.column("JOB", 24);
        }
        table.column(oneZone ? Times.name(zones.get(0)) : "ITS ZONE", 30);
        if (viewed) {
            table.column(viewer.getId() + " (you)", 30);
        }
        if (!inUtc) {
            table.column("UTC", 30);
        }
        if (noted) {
            table.column("NOTE", 44);
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
            if (noted) {
                cells.add(NoteText.of(occurrence));
            }
            table.row(cells.toArray());
        }
        return table.lines();
    }
}
