import android.animation.AnimatorSet;
import android.content.res.AssetManager;
import android.content.res.Configuration;
import android.content.res.Resources;
import android.content.res.TypedArray;
import android.graphics.Bitmap;
import android.graphics.Canvas;
import android.graphics.drawable.AnimatedVectorDrawable;
import android.graphics.drawable.Drawable;
import android.util.DisplayMetrics;
import android.util.TypedValue;
import java.io.FileOutputStream;
import java.io.OutputStream;
import java.lang.reflect.Field;
import java.lang.reflect.Method;
import java.util.Locale;
import org.json.JSONArray;
import org.json.JSONObject;

/** What the framework of one API level makes of the resources of an app. */
final class Judge {

  private static Resources last;
  private static String lastPackage;

  private final String name;
  private final Resources resources;
  private final Resources.Theme theme;

  static String answers(String questions) throws Exception {
    JSONArray cases = new JSONArray(questions);
    JSONArray answers = new JSONArray();
    for (int index = 0; index < cases.length(); index++) {
      answers.put(answer(cases.getJSONObject(index)));
    }
    return answers.toString();
  }

  private static JSONObject answer(JSONObject question) throws Exception {
    JSONObject answer = new JSONObject();
    Judge judge;
    try {
      judge = new Judge(question);
    } catch (Exception error) {
      return answer.put("error", error.toString());
    }
    JSONObject values = new JSONObject();
    JSONArray wanted = question.getJSONArray("values");
    for (int index = 0; index < wanted.length(); index++) {
      String value = wanted.getString(index);
      values.put(value, judge.described(value));
    }
    JSONArray drawn = new JSONArray();
    JSONArray drawings = question.getJSONArray("drawings");
    for (int index = 0; index < drawings.length(); index++) {
      drawn.put(judge.drawn(drawings.getJSONObject(index)));
    }
    return answer.put("values", values).put("drawn", drawn);
  }

  private Judge(JSONObject question) throws Exception {
    name = question.getString("package");
    String apk = question.getString("apk");
    JSONObject device = question.getJSONObject("device");
    resources = opened(apk, metrics(device), configuration(device));
    theme = resources.newTheme();
    String style = question.optString("theme");
    if (!style.isEmpty()) {
      theme.applyStyle(identifier(style), true);
    }
  }

  private static Resources opened(String apk, DisplayMetrics metrics, Configuration configuration) throws Exception {
    // Bitmaps that the framework makes for itself have the density of the device.
    Bitmap.class.getMethod("setDefaultDensity", int.class).invoke(null, metrics.densityDpi);
    if (apk.equals(lastPackage)) {
      last.updateConfiguration(configuration, metrics);
      return last;
    }
    AssetManager assets = AssetManager.class.getConstructor().newInstance();
    int cookie = (Integer) AssetManager.class.getMethod("addAssetPath", String.class).invoke(assets, apk);
    if (cookie == 0) {
      throw new IllegalArgumentException(apk + " is not a package");
    }
    last = new Resources(assets, metrics, configuration);
    lastPackage = apk;
    return last;
  }

  private static DisplayMetrics metrics(JSONObject device) throws Exception {
    DisplayMetrics metrics = new DisplayMetrics();
    metrics.setToDefaults();
    metrics.densityDpi = device.getInt("density");
    metrics.density = metrics.densityDpi / 160f;
    metrics.scaledDensity = metrics.density;
    metrics.xdpi = metrics.ydpi = metrics.densityDpi;
    metrics.widthPixels = Math.round(device.getInt("width") * metrics.density);
    metrics.heightPixels = Math.round(device.getInt("height") * metrics.density);
    return metrics;
  }

  /** The sizes and shapes of a screen are classed by the framework itself. */
  private static Configuration configuration(JSONObject device) throws Exception {
    Configuration found = new Configuration();
    found.setToDefaults();
    found.densityDpi = device.getInt("density");
    found.fontScale = 1;
    found.screenWidthDp = device.getInt("width");
    found.screenHeightDp = device.getInt("height");
    found.smallestScreenWidthDp = Math.min(found.screenWidthDp, found.screenHeightDp);
    boolean isTall = found.screenWidthDp <= found.screenHeightDp;
    found.orientation = isTall ? Configuration.ORIENTATION_PORTRAIT : Configuration.ORIENTATION_LANDSCAPE;
    int layout = Configuration.SCREENLAYOUT_SIZE_XLARGE | Configuration.SCREENLAYOUT_LONG_YES;
    Method reduced = Configuration.class.getMethod("reduceScreenLayout", int.class, int.class, int.class);
    int longer = Math.max(found.screenWidthDp, found.screenHeightDp);
    layout = (Integer) reduced.invoke(null, layout, longer, found.smallestScreenWidthDp);
    boolean isRound = device.getBoolean("round");
    layout |= isRound ? Configuration.SCREENLAYOUT_ROUND_YES : Configuration.SCREENLAYOUT_ROUND_NO;
    found.screenLayout = layout;
    found.uiMode = device.getInt("mode");
    found.uiMode |=
        device.getBoolean("night") ? Configuration.UI_MODE_NIGHT_YES : Configuration.UI_MODE_NIGHT_NO;
    found.touchscreen = Configuration.TOUCHSCREEN_FINGER;
    found.keyboard = Configuration.KEYBOARD_NOKEYS;
    found.keyboardHidden = Configuration.KEYBOARDHIDDEN_NO;
    found.hardKeyboardHidden = Configuration.HARDKEYBOARDHIDDEN_YES;
    found.navigation = Configuration.NAVIGATION_NONAV;
    found.navigationHidden = Configuration.NAVIGATIONHIDDEN_YES;
    found.setLocale(Locale.forLanguageTag(device.getString("locale")));
    return found;
  }

  /** The number of "@drawable/mark", "@android:color/white", "?attr/colorPrimary" or "?android:attr/windowBackground". */
  private int identifier(String reference) {
    String text = reference.substring(1);
    String owner = text.startsWith("android:") ? "android" : name;
    text = text.startsWith("android:") ? text.substring(8) : text;
    int slash = text.indexOf('/');
    int found = resources.getIdentifier(text.substring(slash + 1), text.substring(0, slash), owner);
    if (found == 0) {
      throw new Resources.NotFoundException(reference);
    }
    return found;
  }

  /** What a reference comes to: its file, else its kind and value; null where the framework has nothing. */
  private Object described(String reference) throws Exception {
    TypedValue value = new TypedValue();
    try {
      if (reference.startsWith("?")) {
        if (!theme.resolveAttribute(identifier(reference), value, true)) {
          return JSONObject.NULL;
        }
      } else {
        resources.getValue(identifier(reference), value, true);
      }
    } catch (Resources.NotFoundException error) {
      return JSONObject.NULL;
    }
    JSONObject found = new JSONObject();
    if (value.resourceId != 0) {
      found.put("resource", resources.getResourceName(value.resourceId));
    }
    if (value.type == TypedValue.TYPE_STRING) {
      return found.put("file", value.string.toString());
    }
    if (value.type >= TypedValue.TYPE_FIRST_COLOR_INT && value.type <= TypedValue.TYPE_LAST_COLOR_INT) {
      return found.put("colour", String.format("#%08X", value.data));
    }
    if (value.type == TypedValue.TYPE_DIMENSION) {
      return found.put("pixels", value.getDimension(resources.getDisplayMetrics()));
    }
    if (value.type == TypedValue.TYPE_NULL) {
      return found.put("null", true);
    }
    return found.put("number", value.data);
  }

  private JSONObject drawn(JSONObject drawing) throws Exception {
    JSONObject found = new JSONObject();
    int width = drawing.getInt("width");
    int height = drawing.getInt("height");
    try {
      Drawable drawable = drawable(drawing.getString("value"));
      if (drawable == null) {
        return found.put("error", "nothing");
      }
      Bitmap bitmap = Bitmap.createBitmap(width, height, Bitmap.Config.ARGB_8888);
      bitmap.setDensity(resources.getDisplayMetrics().densityDpi);
      Canvas canvas = new Canvas(bitmap);
      drawable.setState(new int[] {android.R.attr.state_enabled}); // as that of a window that has no focus yet
      drawable.setLayoutDirection(resources.getConfiguration().getLayoutDirection());
      found.put("width", drawable.getIntrinsicWidth()).put("height", drawable.getIntrinsicHeight());
      drawable.setBounds(0, 0, width, height);
      if (drawing.optInt("at", -1) >= 0) {
        seek((AnimatedVectorDrawable) drawable, drawing.getInt("at"));
      }
      drawable.draw(canvas);
      try (OutputStream out = new FileOutputStream(drawing.getString("png"))) {
        bitmap.compress(Bitmap.CompressFormat.PNG, 100, out);
      }
      return found;
    } catch (Exception | StackOverflowError error) {
      Throwable cause = error;
      while (cause.getCause() != null) {
        cause = cause.getCause();
      }
      return found.put("error", cause.toString());
    }
  }

  /** Puts an animated vector to a time of its motion, in ms: on the thread that asks, as its render thread does not run here. */
  private static void seek(AnimatedVectorDrawable drawable, int time) throws Exception {
    call(drawable, "forceAnimationOnUI");
    call(drawable, "ensureAnimatorSet");
    Object animator = field(drawable, "mAnimatorSet");
    ((AnimatorSet) field(animator, "mSet")).setCurrentPlayTime(time);
  }

  private static void call(Object object, String name) throws Exception {
    Method method = object.getClass().getDeclaredMethod(name);
    method.setAccessible(true);
    method.invoke(object);
  }

  private static Object field(Object object, String name) throws Exception {
    Field field = object.getClass().getDeclaredField(name);
    field.setAccessible(true);
    return field.get(object);
  }

  private Drawable drawable(String reference) throws Exception {
    if (!reference.startsWith("?")) {
      return resources.getDrawable(identifier(reference), theme);
    }
    TypedArray values = theme.obtainStyledAttributes(new int[] {identifier(reference)});
    try {
      return values.getDrawable(0);
    } finally {
      values.recycle();
    }
  }
}
