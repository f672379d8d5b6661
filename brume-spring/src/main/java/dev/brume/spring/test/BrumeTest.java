package dev.brume.spring.test;

import java.lang.annotation.Documented;
import java.lang.annotation.ElementType;
import java.lang.annotation.Inherited;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;
import org.junit.jupiter.api.extension.ExtendWith;
import org.springframework.boot.test.context.SpringBootTestContextBootstrapper;
import org.springframework.core.annotation.AliasFor;
import org.springframework.test.context.BootstrapWith;
import org.springframework.test.context.junit.jupiter.SpringExtension;

/**
 * A test of an application's jobs alone, in {@linkplain WithVirtualBrume virtual time}: of the application there are the beans that handle jobs and its
 * properties, and no other, no database and no web server. What handlers need is for the test to give, as mocks or by {@code @Import}.
 *
 * @since 0.1.0
 */
@Documented
@Inherited
@Target(ElementType.TYPE)
@Retention(RetentionPolicy.RUNTIME)
@ExtendWith(SpringExtension.class)
@BootstrapWith(SpringBootTestContextBootstrapper.class)
@WithVirtualBrume
public @interface BrumeTest {
    /** When time begins. */
    @AliasFor(annotation = WithVirtualBrume.class, attribute = "beginning")
    String beginning() default "2026-01-01T00:00:00Z";

    /** Whether one-offs are left waiting, so that a test can look at what was ordered, instead of being carried out. */
    @AliasFor(annotation = WithVirtualBrume.class, attribute = "collectOneOffs")
    boolean collectOneOffs() default false;
}
