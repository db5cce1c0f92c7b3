"""The Python module as a script would use it. Says its totals in the words of the other tests."""
import json
import os
import sys
import tempfile
import unittest

sys.path.insert(0, sys.argv.pop(1))
import rasoir  # noqa: E402

DEMO = os.path.join(os.path.dirname(os.path.dirname(os.path.abspath(__file__))), "demo-data")


class PythonTest(unittest.TestCase):
    def arm(self):
        return rasoir.open(os.path.join(DEMO, "hanger-arm.step"), target_size=5)

    def test_a_file_is_opened_and_told(self):
        work = self.arm()
        self.assertEqual(work.target_size, 5)
        part = work.parts[0]
        self.assertEqual(part["name"], "hanger arm")
        self.assertEqual(part["places"], 1)
        self.assertTrue(part["closed"])

    def test_steps_are_run_undone_and_saved(self):
        work = self.arm()
        before = work.survey("holes", up_to=8)["holes"]
        self.assertGreater(len(before), 10)
        done = work.run("shave.removeHoles", upTo=8.0)
        self.assertTrue(any(item["done"] for item in done["items"]))
        self.assertLess(len(work.survey("holes", up_to=8)["holes"]), len(before))
        self.assertEqual(work.steps[0]["operation"], "shave.removeHoles")
        with tempfile.TemporaryDirectory() as folder:
            path = os.path.join(folder, "arm.step")
            work.save(path)
            again = rasoir.open(path)
            self.assertAlmostEqual(again.parts[0]["volume_mm3"], work.parts[0]["volume_mm3"], delta=1.0)
        work.undo()
        self.assertEqual(len(work.survey("holes", up_to=8)["holes"]), len(before))
        with self.assertRaises(rasoir.Problem):
            work.undo()

    def test_problems_are_exceptions_with_their_sentence(self):
        with self.assertRaises(rasoir.Problem) as caught:
            rasoir.open("/nowhere/there.step")
        self.assertIn("there.step", str(caught.exception))
        work = self.arm()
        with self.assertRaises(rasoir.Problem) as caught:
            work.run("shave.removeEverything")
        self.assertIn("removeEverything", caught.exception.what)
        with self.assertRaises(rasoir.Problem) as caught:
            work.run("shave.removeHoles", upTo=8.0, colour="red")
        self.assertIn("colour", str(caught.exception))
        with self.assertRaises(rasoir.Problem) as caught:
            work.run("shave.removeChamfers", upTo=0.01)
        self.assertTrue(caught.exception.nothing_to_do)
        self.assertEqual(len(work.steps), 0)
        with self.assertRaises(rasoir.Problem):
            work.survey("dreams")

    def test_check_mesh_and_operations(self):
        work = self.arm()
        self.assertTrue(all(finding["severity"] for finding in work.check()))
        with tempfile.TemporaryDirectory() as folder:
            path = os.path.join(folder, "arm.vtu")
            mesh = work.mesh(size=8, path=path)
            self.assertGreater(mesh["triangles"], 1000)
            self.assertGreater(os.path.getsize(path), 10000)
        with self.assertRaises(rasoir.Problem):
            work.mesh(size=0.001)
        names = [operation["id"] for operation in rasoir.operations()]
        self.assertIn("divide.cut", names)
        json.dumps(rasoir.operations())


if __name__ == "__main__":
    result = unittest.main(exit=False, verbosity=1).result
    failed = len(result.failures) + len(result.errors)
    print(f"Totals: {result.testsRun - failed} passed, {failed} failed, 0 skipped")
    sys.exit(failed != 0)
