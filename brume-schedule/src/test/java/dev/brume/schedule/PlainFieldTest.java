package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** The quick way of reading a field, against stepping through its items by hand, and against the thorough way. */
class PlainFieldTest {
    private final SplittableRandom random = new SplittableRandom(20261126);

    private record Written(String text, long bits) {}

    @Test
    void plainFieldsMeanWhatTheirItemsSay() {
        for (int i = 0; i < 20_000; i++) {
            CronField field = CronField.values()[random.nextInt(CronField.values().length)];
            List<String> items = new ArrayList<>();
            long bits = 0;
            for (int items0 = 1 + random.nextInt(3); items0 > 0; items0--) {
                Written item = item(field);
                items.add(item.text);
                bits |= item.bits;
            }
            String text = String.join(",", items);
            assertThat(PlainField.read(field, text)).as(field + " " + text).isEqualTo(bits);
        }
    }

    /** An item that only day fields have sends the whole field the thorough way. */
    @Test
    void besideWhatIsSpecialTheyMeanTheSame() {
        for (int i = 0; i < 5_000; i++) {
            CronField field = random.nextBoolean() ? CronField.DAY_OF_MONTH : CronField.DAY_OF_WEEK;
            Written item = item(field);
            String text = item.text + (field == CronField.DAY_OF_MONTH ? ",L" : ",5L");
            List<ScheduleProblem> problems = new ArrayList<>();
            CronFieldSet read = new CronFieldReader(field, new CronParser.Word(text, 0), problems).read();

            assertThat(problems).as(text).isEmpty();
            assertThat(read.bits()).as(field + " " + text).isEqualTo(item.bits);
            assertThat(read.fromLast()).as(text).isEqualTo(field == CronField.DAY_OF_MONTH ? 1 : 1 << 5);
        }
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            L,5-40       | 4 | 40
            L,40-5       | 2 | 40
            L,5-9/32     | 6 | 32
            L,*/0        | 4 | 0
            L,5/         | 4 | ''
            L,1-2-3      | 2 | 1-2-3
            """)
    void whatIsWrongBesideWhatIsSpecialIsFoundThere(String text, int index, String value) {
        List<ScheduleProblem> problems = new ArrayList<>();
        new CronFieldReader(CronField.DAY_OF_MONTH, new CronParser.Word(text, 0), problems).read();

        assertThat(problems).singleElement().satisfies(problem -> {
            assertThat(problem.index()).isEqualTo(index);
            assertThat(problem.text()).isEqualTo(value);
        });
    }

    private Written item(CronField field) {
        int size = field.size();
        int from = random.nextInt(size);
        int to = random.nextInt(size);
        int step = random.nextBoolean() ? 1 : 1 + random.nextInt(size);
        String suffix = step == 1 ? "" : "/" + step;
        return switch (random.nextInt(3)) {
            case 0 -> new Written("*" + suffix, stepping(field, 0, size - 1, step));
            case 1 ->
                new Written(
                        name(field, from) + suffix, stepping(field, from, suffix.isEmpty() ? from : size - 1, step));
            default ->
                new Written(
                        name(field, from) + "-" + name(field, to) + suffix,
                        stepping(field, from, to < from ? to + size : to, step));
        };
    }

    private String name(CronField field, int offset) {
        int value = field.min() + offset;
        return !field.names().isEmpty() && random.nextBoolean() ? field.names().get(offset) : Integer.toString(value);
    }

    private static long stepping(CronField field, int from, int to, int step) {
        long bits = 0;
        for (int at = from; at <= to; at += step) {
            bits |= 1L << field.min() + at % field.size();
        }
        return bits;
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"", "?", "L", "1,,2", "1-", "-1", "60", "1-2-3", "*/0", "*/61", "a", "1 ", "*1", "5/", "1,"})
    void whatIsNotPlainIsLeftToTheOther(String text) {
        assertThat(PlainField.read(CronField.MINUTE, text)).isZero();
    }

    @Test
    void sundayIsZeroAndSeven() {
        assertThat(PlainField.read(CronField.DAY_OF_WEEK, "7")).isEqualTo(0b0000001);
        assertThat(PlainField.read(CronField.DAY_OF_WEEK, "5-7")).isEqualTo(0b1100001);
        assertThat(PlainField.read(CronField.DAY_OF_WEEK, "SAT-MON")).isEqualTo(0b1000011);
        assertThat(PlainField.read(CronField.DAY_OF_WEEK, "7-2")).isEqualTo(0b0000111);
        assertThat(PlainField.read(CronField.DAY_OF_WEEK, "8")).isZero();
    }
}
