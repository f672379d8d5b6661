package dev.brume.schedule;

import java.util.Collection;
import java.util.Comparator;
import java.util.Locale;
import java.util.Optional;

/**
 * Finds the word that was probably meant.
 *
 * <p>Stateless and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Nearest {
    private static final int LONGEST = 80;

    private Nearest() {}

    /**
     * {@return the candidate closest to what was written, ignoring case, if one is close enough: at
     * most a third of the letters differ}
     */
    public static Optional<String> to(String written, Collection<String> candidates) {
        if (written.isEmpty() || written.length() > LONGEST) {
            return Optional.empty();
        }
        String wanted = written.toLowerCase(Locale.ROOT);
        return candidates.stream()
                .map(word -> new Candidate(word, distance(wanted, word.toLowerCase(Locale.ROOT))))
                .filter(candidate -> candidate.distance <= Math.max(1, wanted.length() / 3))
                .min(Comparator.comparingInt(Candidate::distance).thenComparing(Candidate::word))
                .map(Candidate::word);
    }

    private record Candidate(String word, int distance) {}

    /** Counts the letters to insert, drop, replace or swap with a neighbour. */
    private static int distance(String a, String b) {
        int[] beforeLast = new int[b.length() + 1];
        int[] last = new int[b.length() + 1];
        int[] row = new int[b.length() + 1];
        for (int j = 0; j <= b.length(); j++) {
            last[j] = j;
        }
        for (int i = 1; i <= a.length(); i++) {
            row[0] = i;
            for (int j = 1; j <= b.length(); j++) {
                int change = a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1;
                row[j] = Math.min(Math.min(row[j - 1], last[j]) + 1, last[j - 1] + change);
                boolean swapped =
                        i > 1 && j > 1 && a.charAt(i - 1) == b.charAt(j - 2) && a.charAt(i - 2) == b.charAt(j - 1);
                if (swapped) {
                    row[j] = Math.min(row[j], beforeLast[j - 2] + 1);
                }
            }
            int[] spare = beforeLast;
            beforeLast = last;
            last = row;
            row = spare;
        }
        return last[b.length()];
    }
}
