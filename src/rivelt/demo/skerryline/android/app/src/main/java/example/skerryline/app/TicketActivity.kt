package example.skerryline.app

import android.os.Bundle
import androidx.appcompat.app.AppCompatActivity

/** A ticket for one sailing. */
class TicketActivity : AppCompatActivity() {

    override fun onCreate(savedInstanceState: Bundle?) {
        super.onCreate(savedInstanceState)
        title = intent.getStringExtra("sailing")
    }
}
