package dev.brume.http.internal.console;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;

/** Says which lines two texts differ in. Stateless. */
final class Lines {
    private Lines() {}

    /** {@return the lines of both, those that went behind a minus, those that came behind a plus, without those that stayed} */
    static String changed(String before, String after) {
        List<String> old = before.lines().toList();
        List<String> fresh = after.lines().toList();
        int[][] common = new int[old.size() + 1][fresh.size() + 1];
        for (int i = old.size() - 1; i >= 0; i--) {
            for (int j = fresh.size() - 1; j >= 0; j--) {
                common[i][j] = old.get(i).equals(fresh.get(j))
                        ? common[i + 1][j + 1] + 1
                        : Math.max(common[i + 1][j], common[i][j + 1]);
            }
        }
        Deque<String> lines = new ArrayDeque<>();
        int i = 0;
        int j = 0;
        while (i < old.size() || j < fresh.size()) {
            if (i < old.size() && j < fresh.size() && old.get(i).equals(fresh.get(j))) {
                i++;
                j++;
            } else if (j == fresh.size() || i < old.size() && common[i + 1][j] >= common[i][j + 1]) {
                lines.add("- " + old.get(i++).strip());
            } else {
                lines.add("+ " + fresh.get(j++).strip());
            }
        }
        return String.join("\n", lines);
    }
}
