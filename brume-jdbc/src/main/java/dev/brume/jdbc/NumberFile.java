package dev.brume.jdbc;

import java.io.IOException;
import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteOrder;
import java.nio.MappedByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileChannel.MapMode;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;

/**
 * The run numbers and fence numbers of an embedded database, in a file beside it, so that none is given out twice even if the
 * database turns out to be an older copy of itself.
 *
 * <p>Protocol. The file is mapped into every process that uses the database; a number is drawn by one atomic addition, so that
 * whoever draws later, in whichever process, draws a higher one, and a process that freezes or dies holds up nobody. What was drawn
 * outlives every process, since the page belongs to the operating system. A halt of the whole machine is another matter:
 * numbers are reserved in blocks, and a process uses none above what it has itself forced to disk. The owner of the database
 * notices by the machine's boot id that there was a halt, and goes on above what was reserved. The highest epoch is kept beside the numbers.
 *
 * <p>Safe for use by many threads and processes.
 */
final class NumberFile {
    private static final long MAGIC = 0x4272756d654e6f31L;
    private static final int BYTES = 4096;
    private static final long BLOCK = 10_000;
    private static final Path BOOT_ID = Path.of("/proc/sys/kernel/random/boot_id");
    private static final VarHandle LONGS = MethodHandles.byteBufferViewVarHandle(long[].class, ByteOrder.LITTLE_ENDIAN);

    /** The places of the values, eight bytes each. */
    private enum Slot {
        MAGIC,
        BOOT,
        EPOCH,
        RUN,
        RUN_RESERVED,
        FENCE,
        FENCE_RESERVED;

        int offset() {
            return ordinal() * Long.BYTES;
        }
    }

    private final MappedByteBuffer page;
    private final Counter runs = new Counter(Slot.RUN, Slot.RUN_RESERVED);
    private final Counter fences = new Counter(Slot.FENCE, Slot.FENCE_RESERVED);

    private NumberFile(MappedByteBuffer page) {
        this.page = page;
    }

    /** {@return the content of a file in which nothing was given out yet} */
    static byte[] empty() {
        byte[] content = new byte[BYTES];
        java.nio.ByteBuffer.wrap(content).order(ByteOrder.LITTLE_ENDIAN).putLong(MAGIC);
        return content;
    }

    /**
     * Opens a file that is there.
     *
     * @throws IOException if it cannot be read and written, or is not such a file
     */
    static NumberFile open(Path file) throws IOException {
        if (Files.size(file) != BYTES) {
            throw damaged(file);
        }
        MappedByteBuffer page;
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.READ, StandardOpenOption.WRITE)) {
            page = channel.map(MapMode.READ_WRITE, 0, BYTES);
        }
        NumberFile numbers = new NumberFile(page);
        if (numbers.get(Slot.MAGIC) != MAGIC) {
            throw damaged(file);
        }
        return numbers;
    }

    private static IOException damaged(Path file) {
        return new IOException(file + " is damaged; remove it, and the next start makes a new one under a new epoch");
    }

    /** One kind of number. */
    private final class Counter {
        private final Slot next;
        private final Slot reserved;

        /** Up to where this process has forced the reservation to disk, exclusive. Published by being volatile. */
        private volatile long safe;

        Counter(Slot next, Slot reserved) {
            this.next = next;
            this.reserved = reserved;
        }

        long draw(int count) {
            long first = (long) LONGS.getAndAdd(page, next.offset(), (long) count);
            long end = first + count;
            if (end > safe) {
                reserve(end);
            }
            return first;
        }

        private synchronized void reserve(long end) {
            if (end > safe) {
                raise(reserved, end + BLOCK);
                page.force();
                safe = end + BLOCK;
            }
        }
    }

    /** Draws run numbers; returns the first of so many in a row. */
    long drawRuns(int count) {
        return runs.draw(count);
    }

    /** Draws fence numbers; returns the first of so many in a row. */
    long drawFences(int count) {
        return fences.draw(count);
    }

    /** Goes on no lower than from here. */
    void goOnFrom(long run, long fence) {
        raise(Slot.RUN, run);
        raise(Slot.FENCE, fence);
        raise(Slot.RUN_RESERVED, run);
        raise(Slot.FENCE_RESERVED, fence);
        page.force();
    }

    /** {@return whether no number was given out so far} */
    boolean isUnused() {
        return get(Slot.RUN) == 0 && get(Slot.FENCE) == 0;
    }

    /** {@return the highest epoch there ever was, 0 if none was noted} */
    long epoch() {
        return get(Slot.EPOCH);
    }

    /** Notes an epoch, before it is used. */
    void noteEpoch(long epoch) {
        if (epoch > get(Slot.EPOCH)) {
            raise(Slot.EPOCH, epoch);
            page.force();
        }
    }

    /** Called by whoever has come to own the database, before anyone uses it: after a halt of the machine, passes over what was reserved. */
    void owned() {
        owned(bootId());
    }

    void owned(long boot) {
        if (boot == 0 || get(Slot.BOOT) != boot) {
            raise(Slot.RUN, get(Slot.RUN_RESERVED));
            raise(Slot.FENCE, get(Slot.FENCE_RESERVED));
            LONGS.setVolatile(page, Slot.BOOT.offset(), boot);
            page.force();
        }
    }

    /** What differs between two starts of the machine; 0 where that cannot be known. */
    private static long bootId() {
        try {
            return java.util
                    .UUID
                    .fromString(
                            Files.readString(BOOT_ID, StandardCharsets.US_ASCII).strip())
                    .getMostSignificantBits();
        } catch (IOException | IllegalArgumentException elsewhere) {
            return 0;
        }
    }

    private long get(Slot slot) {
        return (long) LONGS.getVolatile(page, slot.offset());
    }

    private void raise(Slot slot, long least) {
        long now = get(slot);
        while (now < least && !LONGS.compareAndSet(page, slot.offset(), now, least)) {
            now = get(slot);
        }
    }
}
