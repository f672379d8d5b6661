package dev.brume.schedule;

import java.util.Collections;
import java.util.EnumSet;
import java.util.Set;

/** All sets of notes, made once, so that an occurrence costs no set of its own. */
final class Notes {
    static final Set<Note> NONE = Set.of();

    private static final Note[] VALUES = Note.values();
    private static final Set<?>[] SETS = sets();

    private Notes() {}

    private static Set<?>[] sets() {
        Set<?>[] sets = new Set<?>[1 << VALUES.length];
        for (int bits = 0; bits < sets.length; bits++) {
            EnumSet<Note> notes = EnumSet.noneOf(Note.class);
            for (Note note : VALUES) {
                if ((bits & bit(note)) != 0) {
                    notes.add(note);
                }
            }
            sets[bits] = bits == 0 ? NONE : Collections.unmodifiableSet(notes);
        }
        return sets;
    }

    static int bit(Note note) {
        return 1 << note.ordinal();
    }

    static int bits(Set<Note> notes) {
        int bits = 0;
        for (Note note : notes) {
            bits |= bit(note);
        }
        return bits;
    }

    @SuppressWarnings("unchecked")
    static Set<Note> of(int bits) {
        return (Set<Note>) SETS[bits];
    }

    static Set<Note> with(Set<Note> notes, Note note) {
        return of(bits(notes) | bit(note));
    }
}
