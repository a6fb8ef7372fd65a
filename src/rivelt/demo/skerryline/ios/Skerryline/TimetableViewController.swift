import UIKit

/// Today's sailings.
final class TimetableViewController: UITableViewController {
    private let sailings = [
        "07:10  Harrow Stage to Inner Skerry",
        "08:25  Inner Skerry to Long Holm",
        "11:40  Long Holm to Lantern Rock",
        "16:05  Lantern Rock to Harrow Stage",
    ]

    override func viewDidLoad() {
        super.viewDidLoad()
        title = "Today"
        tableView.backgroundColor = UIColor(named: "Sand")
        tableView.register(UITableViewCell.self, forCellReuseIdentifier: "sailing")
    }

    override func tableView(_ tableView: UITableView, numberOfRowsInSection section: Int) -> Int {
        sailings.count
    }

    override func tableView(_ tableView: UITableView, cellForRowAt indexPath: IndexPath) -> UITableViewCell {
        let cell = tableView.dequeueReusableCell(withIdentifier: "sailing", for: indexPath)
        cell.textLabel?.text = sailings[indexPath.row]
        return cell
    }
}
