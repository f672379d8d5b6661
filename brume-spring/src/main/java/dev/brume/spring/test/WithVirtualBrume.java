package dev.brume.spring.test;

import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Inherited;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * Has a Spring test go by virtual time: the application's {@link dev.brume.Brume} is that of a {@link dev.brume.testkit.VirtualBrume}, a bean too, whose
 * store is in memory and which does something only when time is let pass. Jobs and handlers are the application's own.
 *
 * <p>Orders commit by themselves, since the store is none of Spring's; a method that {@link dev.brume.spring.CommitsWithRun commits with its run} writes
 * in Spring's transaction.
 *
 * @since 0.1.0
 */
@Documented
@Inherited
@Target({ElementType.TYPE, ElementType.ANNOTATION_TYPE})
@Retention(RetentionPolicy.RUNTIME)
public @interface WithVirtualBrume {
    /** When time begins. */
    String beginning() default "2026-01-01T00:00:00Z";

    /** Whether one-offs are left waiting, so that a test can look at what was ordered, instead of being carried out. */
    boolean collectOneOffs() default false;
}
