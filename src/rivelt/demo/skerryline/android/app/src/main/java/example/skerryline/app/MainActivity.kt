package example.skerryline.app

import android.content.Intent
import android.os.Bundle
import android.widget.ArrayAdapter
import android.widget.ListView
import androidx.appcompat.app.AppCompatActivity

/** Today's sailings, and the way to a ticket. */
class MainActivity : AppCompatActivity() {

    override fun onCreate(savedInstanceState: Bundle?) {
        super.onCreate(savedInstanceState)
        setContentView(R.layout.activity_main)

        val sailings = resources.getStringArray(R.array.sailings)
        val list = findViewById<ListView>(R.id.sailings)
        list.adapter = ArrayAdapter(this, android.R.layout.simple_list_item_1, sailings)
        list.setOnItemClickListener { _, _, position, _ ->
            startActivity(Intent(this, TicketActivity::class.java).putExtra("sailing", sailings[position]))
        }
    }
}
