package dev.brume.http.internal.console;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;

/** Something in a row. */
public sealed interface Drawn permits Mark, DeadlineMark {
    /** {@return where it begins, in hundredths} */
    double from();

    /** {@return all of a row in the order of time, which is that of keys} */
    static List<Drawn> inOrder(List<Mark> marks, List<DeadlineMark> deadlines) {
        List<Drawn> all = new ArrayList<>(marks);
        all.addAll(deadlines);
        all.sort(Comparator.comparingDouble(Drawn::from));
        return all;
    }
}
