package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.lang.module.ModuleDescriptor;
import java.lang.module.ModuleFinder;
import java.lang.reflect.Constructor;
import java.lang.reflect.Executable;
import java.lang.reflect.Field;
import java.lang.reflect.Member;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Objects;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/**
 * What others compile against, module by module, as it stands in each module's {@code api.txt}. After a change that is meant, write the files anew with
 * {@code -Dbrume.api=write} and read the difference.
 */
class PublicSignaturesTest {
    private static final Pattern PACKAGES_OF_JAVA =
            Pattern.compile("\\bjava\\.(?:lang|util|time)(?:\\.\\w+)*\\.(?=[A-Z])");
    private static final Pattern OWN_PACKAGES = Pattern.compile("\\bdev\\.brume(?:\\.[a-z]\\w*)*\\.(?=[A-Z])");

    @ParameterizedTest
    @ValueSource(
            strings = {
                "schedule",
                "ical",
                "core",
                "memory",
                "insight",
                "jdbc",
                "definitions",
                "notices",
                "testkit",
                "jackson2",
                "jackson3",
                "micrometer",
                "http",
                "server",
                "otel"
            })
    void nothingThatOthersCompileAgainstChangesUnnoticed(String module) throws IOException {
        Path folder = Path.of("..", "brume-" + module);
        Path file = folder.resolve("api.txt");
        String now = signatures(folder.resolve("target/classes"));

        if ("write".equals(System.getProperty("brume.api"))) {
            Files.writeString(file, now);
        }

        assertThat(now).as("%s; write it anew as the test says", file).isEqualTo(Files.readString(file));
    }

    private static String signatures(Path classes) throws IOException {
        ModuleDescriptor module =
                ModuleFinder.of(classes).findAll().iterator().next().descriptor();
        TreeMap<String, String> types = new TreeMap<>();
        for (String name : exported(module)) {
            try (Stream<Path> files = Files.list(classes.resolve(name.replace('.', '/')))) {
                for (Path file :
                        files.filter(each -> each.toString().endsWith(".class")).toList()) {
                    String simple = file.getFileName().toString().replace(".class", "");
                    if (!simple.endsWith("-info")) {
                        Class<?> type = type(name + "." + simple);
                        if (isPublic(type)) {
                            types.put(type.getName(), of(type));
                        }
                    }
                }
            }
        }
        return "module " + module.name() + "\n" + String.join("", types.values());
    }

    private static Collection<String> exported(ModuleDescriptor module) {
        return module.exports().stream()
                .filter(Predicate.not(ModuleDescriptor.Exports::isQualified))
                .map(ModuleDescriptor.Exports::source)
                .collect(Collectors.toCollection(TreeSet::new));
    }

    private static Class<?> type(String name) {
        try {
            return Class.forName(name, false, PublicSignaturesTest.class.getClassLoader());
        } catch (ClassNotFoundException e) {
            throw new IllegalStateException(e);
        }
    }

    private static boolean isPublic(Class<?> type) {
        for (Class<?> each = type; each != null; each = each.getDeclaringClass()) {
            if (!Modifier.isPublic(each.getModifiers()) && !Modifier.isProtected(each.getModifiers())) {
                return false;
            }
        }
        return !type.isSynthetic() && !type.isAnonymousClass() && !type.isLocalClass();
    }

    private static String of(Class<?> type) {
        String kind = type.isAnnotation()
                ? "annotation"
                : type.isRecord() ? "record" : type.isEnum() ? "enum" : type.isInterface() ? "interface" : "class";
        boolean isFinal = kind.equals("class") && Modifier.isFinal(type.getModifiers());
        List<String> supers = new ArrayList<>();
        if (kind.equals("class") && type.getSuperclass() != Object.class) {
            supers.add(type.getGenericSuperclass().getTypeName());
        }
        Arrays.stream(type.getGenericInterfaces()).forEach(each -> supers.add(each.getTypeName()));
        TreeSet<String> members = new TreeSet<>();
        Stream.of(type.getDeclaredFields(), type.getDeclaredConstructors(), type.getDeclaredMethods())
                .flatMap(Arrays::stream)
                .filter(member -> isShown((Member) member))
                .map(PublicSignaturesTest::line)
                .filter(Objects::nonNull)
                .forEach(members::add);
        return "\n" + (isFinal ? "final " : "") + (type.isSealed() ? "sealed " : "") + kind + " "
                + type.getName().replace('$', '.')
                + (supers.isEmpty()
                        ? ""
                        : " : " + plain(supers.stream().sorted().collect(Collectors.joining(", "))))
                + "\n"
                + members.stream().map(line -> "    " + line + "\n").collect(Collectors.joining());
    }

    private static boolean isShown(Member member) {
        return !member.isSynthetic()
                && (Modifier.isPublic(member.getModifiers()) || Modifier.isProtected(member.getModifiers()));
    }

    private static String line(Object member) {
        if (member instanceof Field field) {
            return plain((Modifier.isStatic(field.getModifiers()) ? "static " : "")
                    + field.getGenericType().getTypeName() + " " + field.getName());
        }
        if (member instanceof Constructor<?> constructor) {
            return plain("new(" + parameters(constructor) + ")" + thrown(constructor));
        }
        Method method = (Method) member;
        try {
            if (method.getDeclaringClass() != Object.class
                    && Object.class.getMethod(method.getName(), method.getParameterTypes()) != null) {
                return null;
            }
        } catch (NoSuchMethodException ofItsOwn) {
            // It is shown.
        }
        String variables = method.getTypeParameters().length == 0
                ? ""
                : Arrays.stream(method.getTypeParameters())
                        .map(Object::toString)
                        .collect(Collectors.joining(", ", "<", "> "));
        return plain((Modifier.isStatic(method.getModifiers()) ? "static " : "")
                + (method.isDefault() ? "default " : "")
                + (Modifier.isAbstract(method.getModifiers())
                                && !method.getDeclaringClass().isInterface()
                        ? "abstract "
                        : "")
                + variables + method.getGenericReturnType().getTypeName() + " " + method.getName() + "("
                + parameters(method) + ")" + thrown(method));
    }

    private static String parameters(Executable executable) {
        return Arrays.stream(executable.getParameters())
                .map(parameter -> parameter.getParameterizedType().getTypeName() + " " + parameter.getName())
                .collect(Collectors.joining(", "));
    }

    private static String thrown(Executable executable) {
        return executable.getExceptionTypes().length == 0
                ? ""
                : Arrays.stream(executable.getExceptionTypes())
                        .map(Class::getName)
                        .collect(Collectors.joining(", ", " throws ", ""));
    }

    /** Names of the JDK and of this project are told apart without their packages. */
    private static String plain(String text) {
        return OWN_PACKAGES
                .matcher(PACKAGES_OF_JAVA.matcher(text).replaceAll(""))
                .replaceAll("")
                .replace('$', '.');
    }
}
