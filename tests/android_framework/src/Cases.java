import org.junit.Test;
import org.junit.runner.RunWith;
import org.robolectric.RobolectricTestRunner;
import org.robolectric.annotation.Config;
import org.robolectric.annotation.GraphicsMode;

/** Runs the judge inside one API level's framework. It names no class of Android, so that any class loader can load it. */
@RunWith(RobolectricTestRunner.class)
@Config(sdk = Config.ALL_SDKS, manifest = Config.NONE)
@GraphicsMode(GraphicsMode.Mode.NATIVE)
public final class Cases {
  static final String QUESTIONS = "rivelt.questions";
  static final String ANSWERS = "rivelt.answers";

  @Test
  public void answers() throws Exception {
    System.setProperty(ANSWERS, Judge.answers(System.getProperty(QUESTIONS)));
  }
}
